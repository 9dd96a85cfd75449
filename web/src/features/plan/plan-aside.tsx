import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/button";
import { Figure } from "@/ui/figure";
import { Flag } from "@/ui/flag";
import { Kbd } from "@/ui/kbd";
import { Checklist } from "./checklist";
import { PlanGates } from "./plan-gates";

type View = Schemas["LadderView"];

/** What is in the way, what to see to first, how the gain is set, and on to the runs. */
export function PlanAside({
  sessionId,
  view,
  onStart,
  onPrepare,
}: {
  sessionId: string;
  view: View;
  onStart: () => void;
  onPrepare: () => void;
}) {
  const { ladder } = view;
  return (
    <aside className="grid content-start gap-3 px-4 py-[18px] sm:px-5 lg:pl-0">
      <PlanGates sessionId={sessionId} view={view} />
      {view.fragile && view.settings.idle == null && (
        <Flag look="doubt" title="Read its idle draw first.">
          It is old or was repaired: power it up through a current limit, cover on, and note the amps without a tone.
        </Flag>
      )}
      <Checklist sessionId={sessionId} view={view} />
      <section className="rounded-lg border border-line bg-sheet px-4 py-3.5">
        <h3 className="text-note font-firm text-ink2">The supply</h3>
        <dl className="mt-1.5 grid grid-cols-[1fr_auto] gap-x-3 gap-y-1">
          <dt>
            {view.bench_name ? (
              <Link to="/set-up/benches" className="underline underline-offset-3">{`Bench ${view.bench_name}`}</Link>
            ) : (
              "No bench chosen"
            )}
          </dt>
          <dd className="num">{view.settings.rest_v == null ? "rest not set" : `rest ${view.settings.rest_v.toFixed(2)}\u202fV`}</dd>
          <dt>Source resistance</dt>
          <dd>{ladder.source_ohm ? <Figure figure={ladder.source_ohm} plusMinus /> : <span className="text-ink2">not known</span>}</dd>
          <dt>Idle draw</dt>
          <dd className="num">{view.settings.idle == null ? "not read" : `${String(view.settings.idle.current_a)}\u202fA`}</dd>
        </dl>
      </section>
      <section className="rounded-lg border border-line bg-sheet px-4 py-3.5">
        <h3 className="text-note font-firm text-ink2">Gain</h3>
        <p className="mt-1">{view.gain_words}</p>
      </section>
      <div className="flex flex-wrap items-center gap-2">
        <Button look="main" onClick={onStart} disabled={ladder.planned === 0}>
          {ladder.logged === 0 ? "Start the runs" : "Continue the runs"}
        </Button>
        <Button onClick={onPrepare}>
          Prepare <Kbd>S</Kbd>
        </Button>
      </div>
    </aside>
  );
}
