import type { Schemas } from "@/api/client";
import { Flag } from "@/ui/flag";

/** Checks that fired, gates that were opened, runs that are kept out. */
export function Findings({ view }: { view: Schemas["VerdictView"] }) {
  const told = view.checks.filter((check) => check.severity !== "note");
  return (
    <>
      {view.ungated > 0 && (
        <Flag look="stop" title="Ungated.">
          {view.ungated === 1 ? "One run" : `${String(view.ungated)} runs`} past a gate without a reason: kept out of this verdict.
        </Flag>
      )}
      {told.map((check) => (
        <Flag
          key={check.code + check.runs.join()}
          look={check.severity === "stop" ? "stop" : "doubt"}
          title={`${check.place}: ${check.title}`}
        >
          {check.says}
        </Flag>
      ))}
      {view.gates.length > 0 && (
        <section className="rounded-lg border border-line bg-sheet px-4 py-3">
          <h3 className="text-note font-firm text-ink2">Gates that were opened</h3>
          <ul className="mt-1.5 grid gap-1.5 text-step">
            {view.gates.map((words) => (
              <li key={words}>{words}</li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}
