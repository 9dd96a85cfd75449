import type { ReactNode } from "react";
import type { Schemas } from "@/api/client";
import { Flag } from "@/ui/flag";
import type { Cell } from "../ladder/place";

/** The place of the gravest thing to know now. Its room is kept, so that nothing below it moves. */
export function Worst({ children }: { children: ReactNode }) {
  return (
    <div data-worst className="mt-1 min-h-[58px] max-sm:min-h-[84px] metre:min-h-[112px] sm:low:min-h-[42px]">
      {children}
    </div>
  );
}

/** What stands in the way of the run at hand, or what to look out for at it. */
export function Beforehand({ cell, halt, closed }: { cell: Cell; halt: Schemas["Halt"] | null | undefined; closed: string | null }) {
  const shut = cell.gates.find((gate) => !gate.open);
  if (halt) {
    return (
      <Flag look="stop" large title={halt.last ? "The session is over." : "The plan has stopped."}>
        {halt.says}
      </Flag>
    );
  }
  if (closed !== null && cell.shut && shut) {
    return (
      <Flag look="stop" large title={shut.title}>
        {shut.says}
      </Flag>
    );
  }
  const [first] = cell.mind;
  return first === undefined ? null : <p className="border-l-[3px] border-ochre pl-3 text-step leading-snug metre:text-2xl">{first}</p>;
}

/** What else to look out for at the run at hand. */
export function AlsoBeforehand({ cell }: { cell: Cell }) {
  if (cell.mind.length < 2) return null;
  return (
    <ul aria-label="Look out for" className="mt-3 grid gap-1 border-l-[3px] border-ochre pl-3 text-step leading-snug metre:hidden">
      {cell.mind.slice(1).map((line) => (
        <li key={line}>{line}</li>
      ))}
    </ul>
  );
}
