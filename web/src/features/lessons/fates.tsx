import type { Schemas } from "@/api/client";

/** What died or protected itself, and where: counts, and shares with their interval where there are enough. */
export function Fates({ tables }: { tables: readonly Schemas["FateTable"][] }) {
  return (
    <section aria-label="What died" className="min-w-0">
      <h2 className="text-lg font-firm">What protected itself, and what died</h2>
      <p className="text-note text-ink2">
        Each amplifier is one case. Line: Wilson&#8217;s 95&#8239;% interval of the share that died; under five cases only the count.
      </p>
      {tables
        .filter((table) => table.rows.length > 0)
        .map((table) => (
          <table key={table.title} className="mt-2 w-full table-fixed">
            <caption className="pt-1 text-left text-step font-semibold">{table.title}</caption>
            <thead className="text-sm text-ink2">
              <tr>
                <th className="w-[30%]">
                  <span className="sr-only">{table.title}</span>
                </th>
                <th className="w-[10%] px-2 text-right font-medium">run</th>
                <th className="w-[15%] px-2 text-right font-medium">protected</th>
                <th className="w-[10%] px-2 text-right font-medium">died</th>
                <th className="px-2 text-left font-medium">share that died</th>
              </tr>
            </thead>
            <tbody>
              {table.rows.map((row) => (
                <tr key={row.what} className="border-t border-hair">
                  <th scope="row" className="py-0.5 pr-2 text-left font-normal">
                    {row.what}
                  </th>
                  <td className="px-2 text-right">{row.cases}</td>
                  <td className="px-2 text-right">{row.protected}</td>
                  <td className={`px-2 text-right ${row.died > 0 ? "font-semibold text-stop" : ""}`}>{row.died}</td>
                  <td className="px-2">
                    {row.died_share ? <Interval share={row.died_share} /> : <span className="text-ink2">too few</span>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        ))}
    </section>
  );
}

function Interval({ share }: { share: Schemas["CaseShare"] }) {
  return (
    <span className="flex items-center gap-2">
      <svg viewBox="0 0 100 10" className="h-2.5 min-w-8 flex-1" preserveAspectRatio="none" aria-hidden>
        <rect x="0" y="4.5" width="100" height="1" className="fill-hair" />
        <rect x={share.low} y="3" width={Math.max(0.5, share.high - share.low)} height="4" className="fill-ink3" />
        <rect x={Math.min(98, Math.max(0, share.percent - 1))} y="0" width="2" height="10" className="fill-stop" />
      </svg>
      <span className="text-note whitespace-nowrap">{share.says}</span>
    </span>
  );
}
