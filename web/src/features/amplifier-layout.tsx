import { Outlet, useOutletContext, useParams } from "react-router";
import type { Schemas } from "@/api/client";
import { useAmplifier } from "@/api/queries";
import { Spine } from "@/ui/spine";
import { Failed, Loading } from "@/ui/states";

export type AmplifierInHand = Schemas["AmplifierView"];

/** Everything about one amplifier stands under its spine. */
export function AmplifierLayout() {
  const { id = "" } = useParams();
  const amplifier = useAmplifier(id);
  if (amplifier.isPending) return <Loading />;
  if (amplifier.isError) return <Failed error={amplifier.error} retry={() => void amplifier.refetch()} />;
  return (
    <>
      <Spine id={id} summary={amplifier.data.summary} />
      <Outlet context={amplifier.data} />
    </>
  );
}

export const useAmplifierInHand = () => useOutletContext<AmplifierInHand>();
