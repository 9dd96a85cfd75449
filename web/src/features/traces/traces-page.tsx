import { useCallback, useRef, useState, type DragEvent } from "react";
import { useSearchParams } from "react-router";
import { queries, useLadder } from "@/api/queries";
import { Button } from "@/ui/button";
import { Empty, Failed, Loading } from "@/ui/states";
import { useAmplifierInHand } from "../amplifier-layout";
import { TraceView } from "./trace-view";
import { useAdding } from "./use-adding";
import { takeDropped } from "./dropped";
import { useTraceList } from "./use-traces";
import { ENDINGS } from "./words";

/** How far the program has read what it got. */
function ReadingPart() {
  const { data } = queries.useQuery("get", "/api/traces/progress", {}, { refetchInterval: 250, gcTime: 0 });
  return <progress className="h-2 flex-1" {...(data ? { value: data.part } : {})} max={1} />;
}

/** Captured waves of the session in hand: dropped in, looked at, logged. */
export function TracesPage() {
  const { session_id: sessionId } = useAmplifierInHand();
  const [search, setSearch] = useSearchParams();
  const list = useTraceList(sessionId);
  const ladder = useLadder(sessionId);
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const show = useCallback((sha256: string) => setSearch({ trace: sha256 }, { replace: true }), [setSearch]);
  const { adding, refused, add, forget, stop } = useAdding(sessionId, (trace) => show(trace.sha256));
  // Files that were dropped on another page of the amplifier.
  const [waiting] = useState(takeDropped);
  const [taken, setTaken] = useState(false);
  if (!taken && waiting.length > 0) {
    setTaken(true);
    void add(waiting);
  }
  if (list.error) return <Failed error={list.error} retry={() => void list.refetch()} />;
  if (!list.data || !ladder.data) return <Loading />;
  const traces = list.data.traces;
  const chosen = traces.find((trace) => trace.sha256 === search.get("trace")) ?? traces.at(-1);
  const drag = (event: DragEvent, now: boolean) => {
    event.preventDefault();
    setOver(now);
  };
  return (
    <main
      className={`flex min-w-0 flex-1 flex-col ${over ? "bg-verdigris-wash" : ""}`}
      onDragOver={(event) => drag(event, true)}
      onDragLeave={(event) => drag(event, false)}
      onDrop={(event) => {
        drag(event, false);
        event.stopPropagation();
        void add([...event.dataTransfer.files]);
      }}
    >
      <div className="flex flex-wrap items-center gap-2 border-b border-line px-5 py-2.5">
        <h1 className="sr-only">Traces</h1>
        <ul className="flex min-w-0 flex-wrap gap-1.5" aria-label="Recordings">
          {traces.map((trace) => (
            <li key={trace.sha256}>
              <button
                type="button"
                aria-current={trace === chosen ? "true" : undefined}
                className="max-w-64 truncate rounded-md border border-line bg-sheet px-3 py-1.5 text-step hover:border-edge aria-[current=true]:border-copper aria-[current=true]:bg-copper-wash aria-[current=true]:font-semibold"
                onClick={() => show(trace.sha256)}
              >
                {trace.name}
                {trace.runs.length > 0 && <span className="text-ink2"> · {trace.runs.map((run) => run.place).join("; ")}</span>}
              </button>
            </li>
          ))}
        </ul>
        <input
          ref={input}
          type="file"
          multiple
          accept={ENDINGS.join(",")}
          className="sr-only"
          aria-label="Recordings to add"
          tabIndex={-1}
          onChange={(event) => {
            void add([...(event.target.files ?? [])]);
            event.target.value = "";
          }}
        />
        <Button size="low" className="ml-auto" onClick={() => input.current?.click()}>
          Add a recording
        </Button>
      </div>
      {adding && (
        <div role="status" className="flex items-center gap-3 bg-verdigris-wash px-5 py-2">
          <span className="min-w-0 truncate">{adding.part === null ? `Reading ${adding.name} through` : `Sending ${adding.name}`}</span>
          {adding.part === null ? <ReadingPart /> : <progress className="h-2 flex-1" value={adding.part} max={1} />}
          <Button size="low" onClick={stop}>
            Stop
          </Button>
        </div>
      )}
      {refused.length > 0 && (
        <div role="alert" className="flex items-start gap-3 bg-stop-wash px-5 py-2">
          <ul className="min-w-0 flex-1">
            {refused.map((says) => (
              <li key={says}>{says} Nothing of it was kept.</li>
            ))}
          </ul>
          <Button size="low" onClick={forget}>
            Close
          </Button>
        </div>
      )}
      {chosen ? (
        <TraceView key={chosen.sha256} sessionId={sessionId} line={chosen} ladder={ladder.data} />
      ) : (
        <div className="p-5">
          <Empty title="No recording yet.">
            <p>
              Drop a capture of an output here: WAV, FLAC, AIFF, CAF, or the CSV of an oscilloscope. Volts, cycles, distortion and clipping
              are read off the samples, and a stretch becomes a run with its evidence.
            </p>
            <Button look="main" onClick={() => input.current?.click()}>
              Choose a file
            </Button>
          </Empty>
        </div>
      )}
    </main>
  );
}
