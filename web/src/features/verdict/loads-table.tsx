import type { Schemas } from "@/api/client";
import { Figure } from "@/ui/figure";

type Row = Schemas["LoadRow"];
type FigureData = Schemas["Figure"];

const COLUMNS: [string, (row: Row) => FigureData | null | undefined][] = [
  ["Clean", (row) => row.clean],
  ["Efficiency", (row) => row.efficiency],
  ["Heat", (row) => row.heat],
  ["Headroom", (row) => row.headroom],
  ["Balance", (row) => row.balance],
  ["Fade", (row) => row.fade],
  ["Price of a watt", (row) => row.per_watt],
];

/** Load by load: what it makes clean, what that costs in heat and money, what is left for peaks. */
export function LoadsTable({ rows }: { rows: Row[] }) {
  if (rows.length === 0) return null;
  // A column that no load fills is left out.
  const columns = COLUMNS.filter(([, of]) => rows.some((row) => of(row)));
  return (
    <section className="mt-6">
      <h3 className="text-note font-firm text-ink2">Load by load</h3>
      <div role="region" aria-label="Load by load" tabIndex={0} className="relative mt-1.5 overflow-x-auto">
        <table className="w-full text-right text-step">
          <thead>
            <tr className="text-sm text-ink2">
              <th scope="col" className="pb-1 text-left font-normal">
                Load
              </th>
              {columns.map(([name]) => (
                <th key={name} scope="col" className="pb-1 pl-4 font-normal whitespace-nowrap">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr key={row.load + row.words} className="border-t border-hair">
                <th scope="row" className="py-1 text-left font-semibold whitespace-nowrap">
                  {row.load} <span className="text-xs font-normal text-ink2">{row.words}</span>
                </th>
                {columns.map(([name, of]) => (
                  <td key={name} className="py-1 pl-4 whitespace-nowrap">
                    <Cell row={row} name={name} figure={of(row)} />
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

function Cell({ row, name, figure }: { row: Row; name: string; figure: FigureData | null | undefined }) {
  if (!figure) return <span className="text-ink2">–</span>;
  return (
    <>
      <Figure figure={figure} unit={name !== "Price of a watt"} plusMinus={name === "Clean" || name === "Efficiency"} />
      {name === "Balance" && row.weakest && figure.value > 0.5 && (
        <span className="block text-xs text-ink2">output {row.weakest} weakest</span>
      )}
    </>
  );
}
