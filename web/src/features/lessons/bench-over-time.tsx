import type { Schemas } from "@/api/client";
import { SourceChart } from "./source-chart";

/** What the bench itself did over the months. */
export function BenchOverTime({ taught }: { taught: Schemas["LessonsView"] }) {
  const percent = (value: number) => `${value > 0 ? "+" : ""}${value.toFixed(1).replace("-", "−")}\u202f%`;
  return (
    <section aria-label="The bench over time" className="min-w-0">
      <h2 className="text-lg font-firm">The bench over time</h2>
      {taught.due.length > 0 && (
        <ul className="mt-1 rounded bg-ochre-wash px-3 py-1.5 text-step">
          {taught.due.map((row) => (
            <li key={`${row.bench} ${row.meter}`}>
              <b className="font-semibold">{row.meter}</b>, {row.bench}: {row.says}
            </li>
          ))}
        </ul>
      )}
      {taught.sources.length > 0 && <SourceChart rows={taught.sources} />}
      <Rows
        title="Meters that read the same thing"
        empty="No output was read by two meters."
        heads={["", "readings", "scatter"]}
        rows={taught.meters.map((row) => [
          row.says,
          String(row.count),
          row.scatter_percent == null ? "" : `${row.scatter_percent.toFixed(2)}\u202f%`,
        ])}
      />
      <Rows
        title="Loads, measured more than once"
        empty="No load was measured twice."
        heads={["", "first", "last", "change"]}
        rows={taught.loads.map((row) => [
          `${row.load}${row.bench ? `, ${row.bench}` : ""}`,
          `${row.first}, ${row.first_on}`,
          `${row.last}, ${row.last_on}`,
          percent(row.change_percent),
        ])}
      />
    </section>
  );
}

function Rows({
  title,
  empty,
  heads,
  rows,
}: {
  title: string;
  empty: string;
  heads: readonly string[];
  rows: readonly (readonly string[])[];
}) {
  return (
    <table className="mt-3 w-full text-note">
      <caption className="text-left text-step font-semibold">{title}</caption>
      {rows.length > 0 && (
        <thead className="text-sm text-ink2">
          <tr>
            {heads.map((head, n) => (
              <th key={head || title} className={`font-medium ${n === 0 ? "text-left" : "px-2 text-right"}`}>
                {head || <span className="sr-only">{title}</span>}
              </th>
            ))}
          </tr>
        </thead>
      )}
      <tbody>
        {rows.map((row) => (
          <tr key={row.join(" ")} className="border-t border-hair">
            {row.map((text, n) => (
              <td key={heads[n]} className={n === 0 ? "py-0.5 pr-2" : "px-2 text-right whitespace-nowrap"}>
                {text}
              </td>
            ))}
          </tr>
        ))}
        {rows.length === 0 && (
          <tr>
            <td className="text-ink2">{empty}</td>
          </tr>
        )}
      </tbody>
    </table>
  );
}
