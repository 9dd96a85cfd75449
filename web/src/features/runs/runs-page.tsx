import { lazy, Suspense } from "react";
import { useLadder } from "@/api/queries";
import { Empty, Failed } from "@/ui/states";
import { useAmplifierInHand } from "../amplifier-layout";
import { LineLoading } from "../line-loading";
import { Bench } from "./bench";

const AddLoad = lazy(async () => ({ default: (await import("../ladder/add-load")).AddLoad }));

/** The bench: the ladder on the left, the run at hand on the right. */
export function RunsPage() {
  const { id, session_id: sessionId, amplifier } = useAmplifierInHand();
  const ladder = useLadder(sessionId);
  if (ladder.isPending) return <LineLoading />;
  if (ladder.isLoadingError) return <Failed error={ladder.error} retry={() => void ladder.refetch()} />;
  if (ladder.data.ladder.rungs.length === 0) {
    return (
      <main className="p-6">
        <Empty title="No load yet.">
          <p>The ladder is built from the claimed loads: enter a claim with its wiring and load, or add a load by hand.</p>
          <Suspense>
            <AddLoad sessionId={sessionId} channels={amplifier.channels} onAdded={() => undefined} />
          </Suspense>
        </Empty>
      </main>
    );
  }
  return <Bench key={sessionId} amplifierId={id} sessionId={sessionId} view={ladder.data} channels={amplifier.channels} />;
}
