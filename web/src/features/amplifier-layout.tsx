import { Suspense, useEffect, useMemo, type ReactNode } from "react";
import { Outlet, useLocation, useNavigate, useOutletContext, useParams } from "react-router";
import type { Schemas } from "@/api/client";
import { useAmplifier } from "@/api/queries";
import { Scale } from "@/ui/scale";
import { Failed, Loading } from "@/ui/states";
import { useKeys } from "@/ui/use-keys";
import { useTitle } from "@/ui/use-title";
import { LineLoading } from "./line-loading";
import { leaveDropped } from "./traces/dropped";
import { isRecording } from "./traces/words";

export type AmplifierInHand = Schemas["AmplifierView"];

/** What the page and a PDF of it are called, behind the amplifier's name. */
const VIEWS: Record<string, string> = {
  claims: "Claims",
  edit: "Details",
  record: "Record",
  sessions: "Sessions",
  plan: "Plan",
  runs: "Runs",
  traces: "Traces",
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
    <DropTraces id={id}>
      <Scale id={id} summary={amplifier.data.summary} session={amplifier.data.session_words} />
      <Suspense key={pathname} fallback={loading}>
        <Outlet context={amplifier.data} />
      </Suspense>
    </DropTraces>
  );
}

/** A recording that is dropped on any page of the amplifier goes to its traces. */
function DropTraces({ id, children }: { id: string; children: ReactNode }) {
  const navigate = useNavigate();
  useEffect(() => {
    const recordings = (event: DragEvent) => [...(event.dataTransfer?.files ?? [])].filter((file) => isRecording(file.name));
    const over = (event: DragEvent) => {
      if (event.dataTransfer?.types.includes("Files")) event.preventDefault();
    };
    const drop = (event: DragEvent) => {
      const files = recordings(event);
      if (event.defaultPrevented || files.length === 0) return;
      event.preventDefault();
      leaveDropped(files);
      void navigate(`/amplifiers/${id}/traces`);
    };
    addEventListener("dragover", over);
    addEventListener("drop", drop);
    return () => {
      removeEventListener("dragover", over);
      removeEventListener("drop", drop);
    };
  }, [id, navigate]);
  return children;
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
