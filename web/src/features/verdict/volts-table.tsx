import type { Schemas } from "@/api/client";
import { Figure } from "@/ui/figure";

/** Power at the usual supply voltages, for every load that was run clean: one figure, or the two ends of a band. */
export function VoltsTable({ view }: { view: Schemas["VerdictView"] }) {
  const [first] = view.at_volts;
  if (!first) return null;
  return (
    <section className="mt-6" aria-label="Certified watts at other voltages">
      <h3 className="text-note font-firm text-ink2">Certified watts at other voltages</h3>
      <table className="mt-1.5 w-full text-right text-step">
        <thead>
          <tr className="text-sm text-ink2">
            <th scope="col" className="text-left font-normal">
              Load
            </th>
            {first.cells.map((cell) => (
              <th key={cell.volts} scope="col" className="num font-normal">
                {cell.volts}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {view.at_volts.map((row) => (
            <tr key={row.load + row.words} className="border-t border-hair">
              <th scope="row" className="py-1 text-left font-semibold">
                {row.load} <span className="text-xs font-normal text-ink2">{row.words}</span>
              </th>
              {row.cells.map((cell) => (
                <td key={cell.volts} className="py-1 pl-2 whitespace-nowrap">
                  <Figure figure={cell.low} unit={false} plusMinus={!cell.high} />
                  {cell.high && (
                    <>
                      <span className="text-ink2">–</span>
                      <Figure figure={cell.high} unit={false} plusMinus />
                    </>
                  )}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
