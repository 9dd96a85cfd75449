import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { stopLive } from "@/features/live/stop";
import { Button, buttonClass } from "@/ui/button";
import { Kbd } from "@/ui/kbd";
import type { Press } from "./use-line";

/** What a hand can do at the run at hand, each with its key on it. */
export function Actions({
  onLog,
  onNext,
  onWrong,
  onUndo,
  undo,
  running,
  open,
  verdict,
  children,
}: {
  onLog: (press: Press) => void;
  onNext: () => void;
  onWrong: () => void;
  onUndo: () => void;
  /** What undo takes back. */
  undo: Schemas["ActView"] | undefined;
  /** A run is under way: how it is called off. */
  running: Schemas["LiveMethod"]["kind"] | null;
  /** A reading can be logged now. */
  open: boolean;
  /** Everything planned is logged: where the verdict is. */
  verdict: string | null;
  children: ReactNode;
}) {
  return (
    <div role="group" aria-label="This run" className="mt-1.5 flex flex-wrap items-stretch gap-2">
      {running !== null ? (
        <Act look="stop" className="border-2 px-6" onClick={() => void stopLive()}>
          {running === "watch" ? "Take it" : "Stop"} <Kbd>Esc</Kbd>
        </Act>
      ) : verdict !== null ? (
        <Link to={verdict} className={buttonClass("main", "usual", "min-h-11")}>
          See the verdict <Kbd>V</Kbd>
        </Link>
      ) : null}
      {running === null && (
        <Act
          look={verdict === null && open ? "main" : "plain"}
          aria-disabled={!open || undefined}
          className={open ? "" : "text-ink3"}
          onClick={({ timeStamp }) => onLog({ timeStamp, repeat: false })}
        >
          Log it <Kbd>Enter</Kbd>
        </Act>
      )}
      <Act onClick={onNext}>
        Next <Kbd>+</Kbd>
      </Act>
      <Act data-undo={undo?.says ?? ""} className={undo ? "" : "text-ink3"} onClick={onUndo}>
        Undo <Kbd>U</Kbd>
        <span className="sr-only">: {undo?.says ?? "nothing to undo"}</span>
      </Act>
      <Act onClick={onWrong}>
        <span className="sm:hidden">Wrong</span>
        <span className="max-sm:hidden">Something went wrong</span> <Kbd>X</Kbd>
      </Act>
      {children}
    </div>
  );
}

/** Big figures and back, and where all keys are listed. */
export function MetreSwitch({ on, toggle }: { on: boolean; toggle: () => void }) {
  return (
    <p className="no-print ml-auto flex items-center gap-x-4 text-step text-ink2 max-md:hidden">
      <button type="button" aria-pressed={on} className="min-h-11 rounded hover:text-ink" onClick={toggle}>
        {on ? "usual size" : "big figures"} <Kbd>B</Kbd>
      </button>
      <span className="max-xl:hidden">
        all keys <Kbd>?</Kbd>
      </span>
    </p>
  );
}

/** A target of a finger. It leaves the focus on the line. */
function Act({ className = "", ...rest }: Parameters<typeof Button>[0]) {
  return (
    <Button
      className={`min-h-11 max-sm:px-2.5 [&_kbd]:max-sm:hidden ${className}`}
      onPointerDown={(event) => event.preventDefault()}
      {...rest}
    />
  );
}
