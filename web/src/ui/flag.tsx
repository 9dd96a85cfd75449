import type { ReactNode } from "react";
import { cn } from "./cn";

const LOOKS = {
  good: "border-transparent bg-verdigris-wash",
  doubt: "border-transparent bg-ochre-wash",
  stop: "border-transparent bg-stop-wash",
  note: "border-line bg-sheet",
} as const;

export type FlagLook = keyof typeof LOOKS;

/** A sentence that wants to be read: what, why it matters, what to do. */
export function Flag({
  look,
  title,
  code,
  large = false,
  roomy = false,
  said,
  children,
}: {
  look: FlagLook;
  title: string;
  /** Code of the check it tells of. */
  code?: string;
  /** It is read from afar where the page is. */
  large?: boolean;
  /** It takes the room of two lines whatever it says: sentences change in place. */
  roomy?: boolean;
  /** What it says, where that changes under one title. */
  said?: string;
  children?: ReactNode;
}) {
  return (
    <div
      data-check={code}
      className={cn(
        "rounded-md border px-3 py-[7px] text-step leading-snug",
        LOOKS[look],
        roomy && "sm:min-h-[56px]",
        large && "metre:text-2xl metre:[&_b]:text-4xl",
      )}
    >
      {/* Another sentence is another element: it does not slide there from where the last one stood. */}
      <div key={said ?? title}>
        <b className="mr-2 font-bold">{title}</b>
        <span>{children}</span>
      </div>
    </div>
  );
}
