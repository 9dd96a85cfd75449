import type { Schemas } from "@/api/client";
import { Figure } from "@/ui/figure";
import { CellPower, FactCells } from "../compare/cells";

type Cell = Schemas["CompareCell"];

/** Place by place: the earlier power, the later, and what changed, with what of it is outside both ±. */
export function ChangesTable({ changes }: { changes: Schemas["Changes"] }) {
  const { comparison } = changes;
  const scale = scaleOf(changes.changes);
  return (
    <section aria-label="What changed" className="relative min-w-0 overflow-x-auto">
      <h3 className="text-lg font-firm">What changed, at {comparison.volts_words}</h3>
      <p className={`mt-1 rounded px-3 py-1.5 ${changes.changes.some((one) => one.apart) ? "bg-ochre-wash" : "bg-hair"}`}>{changes.says}</p>
      <table className="mt-3 w-full">
        <thead>
          <tr className="text-left text-sm text-ink2 *:py-1 *:align-bottom">
            <th className="pr-3 font-medium">Place</th>
            <th className="px-3 font-medium">Mode</th>
            {comparison.heads.map((head, n) => (
              <th key={head.id} className="px-3 text-right font-medium">
                {n === 0 ? "Earlier" : "Later"}
              </th>
            ))}
            <th className="px-3 text-right font-medium">Change</th>
            <th className="w-[26%] px-3 font-medium max-md:hidden">
              <span className="flex justify-between">
                <span>less</span>
                <span>more</span>
              </span>
            </th>
          </tr>
        </thead>
        <tbody>
          {comparison.rows.map((row, n) => {
            const change = changes.changes[n];
            const before = comparison.rows[n - 1];
            const isSame = before !== undefined && before.load === row.load && before.words === row.words;
            return (
              <tr key={`${row.load} ${row.words} ${row.mode_words}`} className={`*:py-0.5 ${isSame ? "" : "border-t border-line"}`}>
                <td className="pr-3 whitespace-nowrap">
                  {!isSame && (
                    <>
                      <b className="font-firm">{row.load}</b> <span className="text-step text-ink2">{row.words}</span>
                    </>
                  )}
                </td>
                <td className="px-3 whitespace-nowrap">{row.mode_words}</td>
                {row.cells.map((cell, side) => (
                  <td key={comparison.heads[side]?.id} className="px-3 text-right">
                    {cell ? <Power cell={cell} /> : <span className="text-ink2">not tested</span>}
                  </td>
                ))}
                <td className={`px-3 text-right whitespace-nowrap ${change?.apart ? "font-semibold" : ""}`}>
                  {change?.percent ? <Figure figure={change.percent} plusMinus /> : <span className="text-ink2">{change?.says}</span>}
                </td>
                <td className="px-3 max-md:hidden">{change?.percent && <Bar change={change} scale={scale} />}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="mt-2 text-note text-ink2">
        Bar: the change; line: its ±. Solid where the two are told apart. Earlier: {comparison.heads[0]?.name}. Later:{" "}
        {comparison.heads[1]?.name}.
      </p>
      <Facts changes={changes} />
    </section>
  );
}

function Power({ cell }: { cell: Cell }) {
  return (
    <>
      <CellPower cell={cell} />
      {cell.unjoined != null && <small className="block text-sm text-ochre">{`${cell.basis}: ${cell.unjoined}`}</small>}
    </>
  );
}

const offOf = (change: Schemas["RetestChange"]) => Number(change.percent?.plus_minus ?? 0);

/** Percent at either end of the drawing. */
function scaleOf(changes: readonly Schemas["RetestChange"][]) {
  const reach = changes.map((change) => Math.abs(change.percent?.value ?? 0) + offOf(change));
  return Math.max(1, ...reach);
}

function Bar({ change, scale }: { change: Schemas["RetestChange"]; scale: number }) {
  const value = change.percent?.value ?? 0;
  const at = (percent: number) => 100 + (100 * percent) / scale;
  const off = offOf(change);
  return (
    <svg viewBox="0 0 200 14" className="h-3.5 w-full" preserveAspectRatio="none" aria-hidden>
      <line x1="100" x2="100" y1="0" y2="14" className="stroke-ink3" vectorEffect="non-scaling-stroke" />
      <rect
        x={Math.min(at(0), at(value))}
        width={Math.abs(at(value) - at(0))}
        y="3"
        height="8"
        className={change.apart ? "fill-copper" : "fill-copper opacity-30"}
      />
      <line x1={at(value - off)} x2={at(value + off)} y1="7" y2="7" className="stroke-ink" vectorEffect="non-scaling-stroke" />
    </svg>
  );
}

/** What else differs: only what does. */
function Facts({ changes }: { changes: Schemas["Changes"] }) {
  const facts = changes.comparison.facts.filter((fact) => fact.says[0] !== fact.says[1]);
  if (facts.length === 0) return null;
  return (
    <table className="mt-4 w-full max-w-[720px] text-note">
      <caption className="pb-1 text-left text-lg font-firm">Beside power</caption>
      <tbody>
        {facts.map((fact) => (
          <tr key={fact.what} className="border-t border-hair">
            <th scope="row" className="py-1 pr-3 text-left font-normal text-ink2">
              {fact.what}
            </th>
            <FactCells fact={fact} heads={changes.comparison.heads} />
          </tr>
        ))}
      </tbody>
    </table>
  );
}
