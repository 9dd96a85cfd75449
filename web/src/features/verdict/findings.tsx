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
          <h3 className="text-[13px] font-[650] text-ink2">Gates that were opened</h3>
          <ul className="mt-1.5 grid gap-1.5 text-[13.5px]">
            {merged(view.gates).map((gate) => (
              <li key={gate.words + gate.reason}>
                <b className="font-semibold">{gate.words}:</b> {gate.reason} <span className="text-ink2">({gate.by})</span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}

const CODES: Record<Schemas["GateCode"], string> = {
  "below-floor": "below the floor",
  "above-supply": "above the maximum supply",
  fuses: "past the fuses",
  "load-bank": "past the load bank",
};

/** Gates opened for the same reason at one load stand in one line. */
function merged(gates: Schemas["Gate"][]): { words: string; reason: string; by: string }[] {
  const lines = new Map<string, { words: Set<string>; load: number; reason: string; by: string }>();
  for (const gate of gates) {
    const key = `${String(gate.load_ohm)} ${gate.reason} ${gate.by}`;
    const line = lines.get(key) ?? { words: new Set<string>(), load: gate.load_ohm, reason: gate.reason, by: gate.by };
    line.words.add(CODES[gate.code]);
    lines.set(key, line);
  }
  return [...lines.values()].map(({ words, load, reason, by }) => ({
    words: `${String(load)} Ω, ${[...words].join(" and ")}`,
    reason,
    by,
  }));
}
