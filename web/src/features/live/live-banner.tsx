import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { useNotice } from "@/ui/notice";
import { isRunning, stopLive, useLive } from "./use-live";

/** On every page while a run is driven: what it is doing, and the stop. Esc stops it always, from inside anything. */
export function LiveBanner() {
  const seen = useLive();
  const { tell } = useNotice();
  const client = useQueryClient();
  const running = isRunning(seen);
  const ended = seen.live?.ended != null ? seen.live.seq : null;
  const told = useRef<number | null>(ended);
  useEffect(() => {
    if (!running) return;
    const onKey = (event: KeyboardEvent) => {
      if (event.key !== "Escape") return;
      event.preventDefault();
      event.stopImmediatePropagation();
      void stopLive().catch((error: unknown) => tell({ says: (error as Error).message, look: "stop" }));
    };
    // Before any dialog or half-typed line hears it.
    addEventListener("keydown", onKey, { capture: true });
    return () => removeEventListener("keydown", onKey, { capture: true });
  }, [running, tell]);
  useEffect(() => {
    if (ended === null || told.current === ended) return;
    told.current = ended;
    void client.invalidateQueries();
  }, [ended, client]);
  if (seen.live?.alarm) {
    return (
      <div role="alert" className="no-print flex-none bg-stop px-5 py-3 text-lg font-bold text-paper">
        Cut the amplifier’s supply by hand, now. The generator’s link is lost, and its level may still be up. Reconnecting sets it to zero
        first.
      </div>
    );
  }
  if (!running || !seen.live) return null;
  return (
    <section
      aria-label="A run is under way"
      className="no-print flex flex-none flex-wrap items-center gap-x-4 gap-y-1 bg-copper px-5 py-2 text-sheet"
    >
      <b className="font-bold">Live: {seen.live.title}</b>
      <span>{seen.live.says}</span>
      {!seen.open && <span className="font-semibold">The stream is broken off; the run goes on by its own rules.</span>}
      <button
        type="button"
        className="ml-auto rounded-md border-2 border-current px-4 py-1 font-bold hover:bg-sheet/15"
        onClick={() => void stopLive().catch((error: unknown) => tell({ says: (error as Error).message, look: "stop" }))}
      >
        Stop <kbd className="num ml-1 rounded border border-current px-1.5 text-[11.5px]">Esc</kbd>
      </button>
    </section>
  );
}
