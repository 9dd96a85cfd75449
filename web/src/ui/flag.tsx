import type { ReactNode } from "react";
import { cn } from "./cn";

const LOOKS = {
  good: "bg-verdigris-wash",
  doubt: "bg-ochre-wash",
  stop: "bg-stop-wash",
  note: "border border-line bg-sheet",
} as const;

export type FlagLook = keyof typeof LOOKS;

/** A sentence that wants to be read: what, why it matters, what to do. */
export function Flag({
  look,
  title,
  code,
  children,
}: {
  look: FlagLook;
  title: string;
  /** Code of the check it tells of. */
  code?: string;
  children?: ReactNode;
}) {
  return (
    <div data-check={code} className={cn("rounded-md px-3 py-2 text-step leading-snug", LOOKS[look])}>
      <b className="mr-2 font-bold">{title}</b>
      <span>{children}</span>
    </div>
  );
}
