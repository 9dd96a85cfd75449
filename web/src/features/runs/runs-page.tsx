import { useLadder } from "@/api/queries";
import { Empty, Failed } from "@/ui/states";
import { useAmplifierInHand } from "../amplifier-layout";
import { LineLoading } from "../line-loading";
import { AddLoad } from "../ladder/add-load";
import { Bench } from "./bench";

/** The bench: the ladder on the left, the run at hand on the right. */
export function RunsPage() {
  const { id, session_id: sessionId, amplifier } = useAmplifierInHand();
  const ladder = useLadder(sessionId);
  if (ladder.isPending) return <LineLoading />;
  if (ladder.isLoadingError) return <Failed error={ladder.error} retry={() => void ladder.refetch()} />;
  if (ladder.data.ladder.rungs.length === 0) {
    return (
      <main className="p-6">
        <Empty title="No load to run into yet.">
          <p>The ladder is made of the loads that are claimed: enter a claim with its wiring and its load. Or set a load by hand.</p>
          <AddLoad sessionId={sessionId} channels={amplifier.channels} onAdded={() => undefined} />
        </Empty>
      </main>
    );
  }
  return <Bench key={sessionId} amplifierId={id} sessionId={sessionId} view={ladder.data} channels={amplifier.channels} />;
}
