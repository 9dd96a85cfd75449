export function Kbd({ children }: { children: string }) {
  return <kbd className="num rounded border border-current px-1.5 text-[11.5px] leading-5 font-medium">{children}</kbd>;
}
