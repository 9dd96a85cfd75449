import type { ReactNode } from "react";

/** One thing to see to before the tone: its name, how it stands, what can be done; more of it opens below. */
export function BeforeRow({
  name,
  label = name,
  action,
  more,
  children,
}: {
  name: string;
  /** What a screen reader calls it. */
  label?: string;
  action?: ReactNode;
  more?: ReactNode;
  children: ReactNode;
}) {
  return (
    <section aria-label={label} className="border-b border-hair py-0.5 last:border-b-0">
      <div className="grid min-h-[32px] grid-cols-[76px_minmax(0,1fr)_auto] items-center gap-x-2.5">
        <h3 className="text-sm text-ink2">{name}</h3>
        <div className="text-step leading-snug">{children}</div>
        <div className="flex justify-end">{action}</div>
      </div>
      {more}
    </section>
  );
}
