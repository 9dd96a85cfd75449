import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, type ReactNode } from "react";
import { useNotice } from "@/ui/notice";
import { cutSupply, stopLive, useStopUnreachable } from "./stop";
import { isRunning, useLive } from "./use-live";

/** Esc held for so long cuts the supply. */
const HELD_MS = 1_000;

/**
 * At the foot of every page while a run is driven, above everything else and in every scroll place: what it is doing, and the stop;
 * the alarm until the level is proved down. Esc stops a run always, from inside anything; held for a second it cuts the supply too.
 */
export function LiveBanner() {
  const seen = useLive();
  const unreachable = useStopUnreachable();
  const { tell } = useNotice();
  const client = useQueryClient();
  const running = isRunning(seen);
  const alarm = seen.live?.alarm ?? false;
  const ended = seen.live?.ended != null ? seen.live.seq : null;
  const told = useRef<number | null>(ended);
  const alarmed = useRef(false);
  const heard = useRef<"never" | "now" | "before">("never");
  useEffect(() => {
    // The program was away and is back: what is shown may be old.
    if (seen.open && heard.current === "before") void client.invalidateQueries();
    if (seen.open) heard.current = "now";
    else if (heard.current === "now") heard.current = "before";
  }, [seen.open, client]);
  const held = useRef<number | null>(null);
  useEffect(() => {
    const letGo = () => {
      if (held.current !== null) clearTimeout(held.current);
      held.current = null;
    };
    const onUp = (event: KeyboardEvent) => {
      if (event.key === "Escape") letGo();
    };
    const onKey = (event: KeyboardEvent) => {
      // Held down since a run was under way, it is still the stop's: the run has ended meanwhile.
      if (event.key !== "Escape" || (!running && !alarm && held.current === null)) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      if (event.repeat || held.current !== null) return;
      if (running) void stopLive();
      held.current = window.setTimeout(() => {
        void cutSupply().then((says) => tell({ says, look: "stop" }));
      }, HELD_MS);
    };
    // Before any dialog or half-typed line hears it.
    addEventListener("keydown", onKey, { capture: true });
    addEventListener("keyup", onUp, { capture: true });
    addEventListener("blur", letGo);
    return () => {
      removeEventListener("keydown", onKey, { capture: true });
      removeEventListener("keyup", onUp, { capture: true });
      removeEventListener("blur", letGo);
    };
  }, [running, alarm, tell]);
  useEffect(() => {
    if (ended === null || told.current === ended) return;
    told.current = ended;
    void client.invalidateQueries();
  }, [ended, client]);
  useEffect(() => {
    if (alarmed.current && !alarm) tell({ says: "The level is confirmed down.", look: "plain" });
    alarmed.current = alarm;
  }, [alarm, tell]);
  const cut = unreachable || (running && !seen.open);
  if (!alarm && !cut && (!running || !seen.live)) return null;
  return (
    <>
      {/* What stands at the end of the page can be scrolled clear of the strip. */}
      <div aria-hidden className="no-print h-24 flex-none" />
      <div aria-live="assertive" className="no-print pointer-events-auto fixed inset-x-0 bottom-0 z-[60]">
        {cut && (
          <Alarm>
            Stop cannot reach the bench: cut the supply.{" "}
            {unreachable ? "The stop is sent again until it gets through." : "The run’s own limits still apply."}
          </Alarm>
        )}
        {alarm && <Alarm>{seen.live?.says}</Alarm>}
        {running && seen.live && (
          <section aria-label="A run is under way" className="flex flex-wrap items-center gap-x-4 gap-y-1 bg-copper px-5 py-2 text-sheet">
            <b className="font-bold">Live: {seen.live.title}</b>
            <span className="min-w-0">{seen.live.says}</span>
            <button
              type="button"
              className="ml-auto min-h-11 rounded-md border-2 border-current px-5 py-1 font-bold hover:bg-sheet/15"
              onClick={() => void stopLive()}
            >
              Stop <kbd className="num ml-1 rounded border border-current px-1.5 text-fine">Esc</kbd>
            </button>
          </section>
        )}
      </div>
    </>
  );
}

function Alarm({ children }: { children: ReactNode }) {
  return (
    <p role="alert" className="bg-stop px-5 py-3 text-lg font-bold text-paper">
      {children}
    </p>
  );
}
