import { useLadder } from "@/api/queries";
import { Failed, Loading } from "@/ui/states";
import { useAmplifierInHand } from "../amplifier-layout";
import { Plan } from "./plan";

/** What each load will ask of the bench, before it is asked. */
export function PlanPage() {
  const inHand = useAmplifierInHand();
  const ladder = useLadder(inHand.session_id);
  if (ladder.isPending) return <Loading />;
  if (ladder.isLoadingError) return <Failed error={ladder.error} retry={() => void ladder.refetch()} />;
  return <Plan sessionId={inHand.session_id} view={ladder.data} channels={inHand.amplifier.channels} />;
}
