import type { Schemas } from "@/api/client";
import { FILLS } from "@/ui/fills";
import { CellPower, FactCells } from "./cells";

type Comparison = Schemas["Comparison"];
type Row = Schemas["CompareRow"];

/** Amplifiers side by side, load by load, with what can be told of each difference. */
export function SideBySide({ comparison }: { comparison: Comparison }) {
  const places: { place: string; rows: Row[] }[] = [];
  for (const row of comparison.rows) {
    const place = `${row.load} ${row.words}`;
    const known = places.find((one) => one.place === place);
    if (known) known.rows.push(row);
    else places.push({ place, rows: [row] });
  }
  return (
    <div className="grid gap-4">
      {places.map(({ place, rows }) => (
        <section key={place} aria-label={place} className="border-t border-line pt-2.5">
          <h4 className="flex items-baseline gap-2">
            <b className="text-lg font-firm">{rows[0]?.load}</b>
            <span className="text-step text-ink2">{rows[0]?.words}</span>
          </h4>
          {rows.map((row) => (
            <Modes key={row.mode_words} row={row} heads={comparison.heads} />
          ))}
        </section>
      ))}
      {comparison.heads.length > 0 && <Facts comparison={comparison} />}
    </div>
  );
}

function Modes({ row, heads }: { row: Row; heads: Comparison["heads"] }) {
  return (
    <div className="mt-1.5">
      <div className="text-sm text-ink2">{row.mode_words}</div>
      <ul className="grid gap-1">
        {row.cells.map(
          (cell, n) =>
            cell != null && (
              <li key={heads[n]?.id} className="grid grid-cols-[minmax(0,9.5rem)_minmax(0,1fr)] max-sm:grid-cols-1 items-center gap-x-2.5">
                <span className="truncate text-note" title={heads[n]?.name}>
                  {heads[n]?.name}
                </span>
                <span className="flex min-w-0 items-center gap-2">
                  <span className="h-2.5 w-[46%] flex-none bg-hair">
                    <i
                      className={`block h-full ${FILLS[row.mode]} ${cell.unjoined == null ? "" : "opacity-45"}`}
                      style={{ width: `${String(cell.fraction * 100)}%` }}
                    />
                  </span>
                  <span className="min-w-0 text-note whitespace-nowrap">
                    <CellPower cell={cell} />
                    {cell.unjoined != null && (
                      <small className="block text-sm whitespace-normal text-ochre">
                        {cell.basis}: {cell.unjoined}
                      </small>
                    )}
                    {cell.setting != null && <small className="block text-sm text-ink2">{cell.setting}</small>}
                  </span>
                </span>
              </li>
            ),
        )}
      </ul>
      {row.cells.includes(null) && row.cells.length > 1 && (
        <p className="text-sm text-ink2">
          not tested:{" "}
          {heads
            .filter((_, n) => row.cells[n] == null)
            .map((head) => head.name)
            .join(", ")}
        </p>
      )}
      {row.says.map((says) => (
        <p
          key={says}
          className={`mt-1 rounded px-2.5 py-1 text-step ${says.includes("outside both") ? "bg-verdigris-wash" : "bg-hair text-ink2"}`}
        >
          {says}
        </p>
      ))}
    </div>
  );
}

function Facts({ comparison }: { comparison: Comparison }) {
  return (
    <section aria-label="Beside power" className="overflow-x-auto border-t border-line pt-2.5">
      <table className="w-full text-note">
        <caption className="pb-1 text-left text-lg font-firm">Beside power</caption>
        <thead>
          <tr className="text-left align-bottom text-sm text-ink2">
            <td />
            {comparison.heads.map((head) => (
              <th key={head.id} scope="col" className="min-w-24 px-1.5 pb-1 font-medium">
                {head.name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {comparison.facts.map((fact) => (
            <tr key={fact.what} className="border-t border-hair align-top">
              <th scope="row" className="py-1 pr-2 text-left font-normal whitespace-nowrap text-ink2">
                {fact.what}
              </th>
              <FactCells fact={fact} heads={comparison.heads} />
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
