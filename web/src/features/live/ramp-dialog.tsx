import { wordsOf } from "@/api/client";
import { queries } from "@/api/queries";
import { Dialog } from "@/ui/dialog";
import { LazyRampPlots as RampPlots } from "./lazy-ramp-plots";

/** The readings a run was made of, to be looked at again. */
export function RampDialog({ sessionId, runId, onClose }: { sessionId: string; runId: string; onClose: () => void }) {
  const { data: ramp, error } = queries.useQuery("get", "/api/sessions/{id}/runs/{run}/ramp", {
    params: { path: { id: sessionId, run: runId } },
  });
  return (
    <Dialog open onClose={onClose} title="The ramp of this run" width="max-w-[980px]">
      {error && <p role="alert">{wordsOf(error)}</p>}
      {ramp?.rounds.length === 0 && <p>This run was logged by hand: there is no ramp to look at.</p>}
      {ramp && ramp.rounds.length > 0 && (
        <>
          <p className="mb-2 text-ink2">{ramp.rounds.length} rounds of readings, as they were kept.</p>
          <RampPlots rounds={ramp.rounds} limit={ramp.limit_ratio ?? 0.01} />
        </>
      )}
    </Dialog>
  );
}
