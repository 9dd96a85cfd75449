import { Suspense, useMemo } from "react";
import { Outlet, useLocation, useNavigate, useOutletContext, useParams } from "react-router";
import type { Schemas } from "@/api/client";
import { useAmplifier } from "@/api/queries";
import { Scale } from "@/ui/scale";
import { Failed, Loading } from "@/ui/states";
import { useKeys } from "@/ui/use-keys";
import { useTitle } from "@/ui/use-title";
import { LineLoading } from "./line-loading";

export type AmplifierInHand = Schemas["AmplifierView"];

/** What the page and a PDF of it are called, behind the amplifier's name. */
const VIEWS: Record<string, string> = {
  claims: "Claims",
  edit: "Details",
  record: "Record",
  sessions: "Sessions",
  plan: "Plan",
  runs: "Runs",
  verdict: "Verdict",
  publish: "Publish",
  sheet: "Result sheet",
};

/** Everything about one amplifier stands under its scale. */
export function AmplifierLayout() {
  const { id = "" } = useParams();
  const { pathname } = useLocation();
  const amplifier = useAmplifier(id);
  useStationKeys(id);
  useTitle(amplifier.data?.summary.name, VIEWS[pathname.split("/").at(-1) ?? ""]);
  const loading = pathname.endsWith("/runs") ? <LineLoading /> : <Loading />;
  if (amplifier.isPending) return loading;
  if (amplifier.isLoadingError) return <Failed error={amplifier.error} retry={() => void amplifier.refetch()} />;
  return (
    <>
      <Scale id={id} summary={amplifier.data.summary} session={amplifier.data.session_words} />
      <Suspense key={pathname} fallback={loading}>
        <Outlet context={amplifier.data} />
      </Suspense>
    </>
  );
}

/** A letter a station. */
function useStationKeys(id: string) {
  const navigate = useNavigate();
  const keys = useMemo(() => {
    const to = (station: string) => () => void navigate(`/amplifiers/${id}/${station}`);
    return { c: to("claims"), p: to("plan"), b: to("runs"), v: to("verdict"), t: to("publish") };
  }, [id, navigate]);
  useKeys(keys);
}

export const useAmplifierInHand = () => useOutletContext<AmplifierInHand>();
