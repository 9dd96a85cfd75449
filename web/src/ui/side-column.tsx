import type { ReactNode } from "react";
import { cn } from "./cn";

/** The left column of an amplifier's page: under the name, as tall as the window where it stands beside the main part. */
export function SideColumn({ label, className, children }: { label: string; className?: string; children: ReactNode }) {
  return (
    <aside
      aria-label={label}
      className={cn(
        "flex flex-col border-line px-4 pb-3 sm:px-5 lg:sticky lg:top-[52px] lg:order-1 lg:h-[calc(100vh-114px)] lg:overflow-auto lg:border-r lg:low:h-[calc(100vh-88px)]",
        className,
      )}
    >
      {children}
    </aside>
  );
}
