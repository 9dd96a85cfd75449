import { wordsOf } from "@/api/client";
import { queries } from "@/api/queries";
import { Dialog } from "@/ui/dialog";
import { second } from "@/ui/dates";

const WORDS: Record<string, string> = { current_a: "the amps", power_w: "the watts", end_v: "the supply volts", rest_v: "the rest volts" };

/** Everything that was done to a run: as first read, and what came after. */
export function HistoryDialog({ sessionId, runId, onClose }: { sessionId: string; runId: string; onClose: () => void }) {
  const { data: rows, error } = queries.useQuery("get", "/api/sessions/{id}/runs/{run}/history", {
    params: { path: { id: sessionId, run: runId } },
  });
  const said = (what: string) => what.replace(/\b(current_a|power_w|end_v|rest_v)\b/, (name) => WORDS[name] ?? name);
  return (
    <Dialog open onClose={onClose} title="History of a run" width="max-w-[640px]">
      {error && <p role="alert">{wordsOf(error)}</p>}
      <ol className="grid">
        {rows?.map((row, i) => (
          <li key={i} className="grid gap-x-4 border-t border-hair py-2 first:border-t-0 sm:grid-cols-[150px_1fr]">
            <span className="num text-note text-ink2">{second(row.at)}</span>
            <span>
              <b className="font-semibold">{said(row.what)}</b>
              {row.line && <span className="num ml-2">{row.line}</span>}
              {row.reason && <span className="block text-ink2">{row.reason}</span>}
            </span>
          </li>
        ))}
      </ol>
    </Dialog>
  );
}
