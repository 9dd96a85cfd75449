import { Link } from "react-router";
import { useVerdict } from "@/api/queries";
import { buttonClass } from "@/ui/button";
import { Flag } from "@/ui/flag";
import { Failed, Loading } from "@/ui/states";
import { useAmplifierInHand } from "../amplifier-layout";
import { ClaimRows } from "./claim-rows";
import { EfficiencyCard } from "./efficiency-card";
import { Findings } from "./findings";
import { LoadsTable } from "./loads-table";
import { SagsCard } from "./sags-card";
import { Say } from "./say";
import { SettledBar } from "./settled-bar";
import { Suspicion } from "./suspicion";
import { TellCard } from "./tell-card";
import { VoltsTable } from "./volts-table";
import { WouldChange } from "./would-change";

/** What became of each claim, and why. */
export function VerdictPage() {
  const inHand = useAmplifierInHand();
  const verdict = useVerdict(inHand.session_id);
  if (verdict.isPending) return <Loading />;
  if (verdict.isLoadingError) return <Failed error={verdict.error} retry={() => void verdict.refetch()} />;
  const drawn = verdict.data;
  const { view } = drawn;
  const anyRun = view.rows.some((row) => row.bars.length > 0);
  const doubted = view.checks.some((check) => check.severity !== "note" && !check.settled);
  return (
    <div className="mx-auto grid w-full max-w-[1500px] flex-1 content-start gap-x-7 px-5 py-5 lg:grid-cols-[1fr_380px]">
      <main className="min-w-0">
        <h1 className="hidden text-2xl font-strong print:block">
          {inHand.summary.name}
          <small className="ml-3 text-note font-normal text-ink2">{inHand.summary.subtitle}</small>
        </h1>
        <Say view={view} />
        <SettledBar sessionId={inHand.session_id} settled={drawn.settled ?? null} anyRun={anyRun} provisional={view.provisional} />
        <ClaimRows drawn={drawn} />
        <WouldChange items={view.would_change} />
        <LoadsTable rows={view.loads} />
        <VoltsTable view={view} />
      </main>
      <aside className="mt-5 grid content-start gap-3 lg:mt-0">
        <EfficiencyCard drawn={drawn} />
        <SagsCard drawn={drawn} />
        <TellCard view={view} />
        <Suspicion sessionId={inHand.session_id} asked={doubted} />
        <Findings view={view} />
        <Flag look={inHand.amplifier.provenance === "bought" ? "note" : "doubt"} title="Disclose.">
          {view.disclosure}
        </Flag>
        <div className="no-print flex flex-wrap gap-2">
          {anyRun && (
            <Link className={buttonClass()} to="../publish/sheet" relative="path">
              Go to the sheet
            </Link>
          )}
          <Link className={buttonClass()} to="../runs" relative="path">
            {anyRun ? "Run one again" : "Go to the runs"}
          </Link>
        </div>
      </aside>
    </div>
  );
}
