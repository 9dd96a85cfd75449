export function Kbd({ children }: { children: string }) {
  return <kbd className="num rounded border border-current px-1.5 text-fine leading-5 font-medium">{children}</kbd>;
}
