import { Download, Printer } from "lucide-react";
import type { Schemas } from "@/api/client";
import { useSheet } from "@/api/queries";
import { Button, buttonClass } from "@/ui/button";
import { Figure } from "@/ui/figure";
import { Failed, Loading } from "@/ui/states";
import { useAmplifierInHand } from "../amplifier-layout";
import { ClaimRows } from "../verdict/claim-rows";
import { Say } from "../verdict/say";

/** The result sheet: one page of ink, to print or to take away as data. */
export function SheetPage() {
  const { session_id: sessionId } = useAmplifierInHand();
  const sheet = useSheet(sessionId);
  if (sheet.isPending) return <Loading />;
  if (sheet.isError) return <Failed error={sheet.error} retry={() => void sheet.refetch()} />;
  return (
    <main className="mx-auto w-full max-w-[960px] min-w-0 px-5 py-5 print:p-0">
      <div className="no-print mb-4 flex flex-wrap items-center gap-2">
        <Button look="main" onClick={() => print()}>
          <Printer size={16} aria-hidden /> Print the sheet
        </Button>
        <a className={buttonClass()} href={`/api/sessions/${sessionId}/sheet.csv`} download>
          <Download size={16} aria-hidden /> Download CSV
        </a>
        <span className="text-sm text-ink2">as it stands now; a run or a claim more changes it</span>
      </div>
      <Sheet sheet={sheet.data} />
    </main>
  );
}

function Sheet({ sheet }: { sheet: Schemas["Sheet"] }) {
  const { view } = sheet.verdict;
  return (
    <article className="rounded-lg border border-line bg-sheet px-7 py-6 print:border-0 print:bg-white print:p-0">
      <header className="mb-4 flex items-baseline justify-between border-b-2 border-ink pb-2">
        <h2 className="wide text-2xl font-[750]">{sheet.name}</h2>
        <span className="text-ink2">{sheet.subtitle}</span>
      </header>
      <Say view={view} />
      <ClaimRows drawn={sheet.verdict} />
      {sheet.rows.length > 0 && <RunTable rows={sheet.rows} />}
      <section className="mt-4 break-inside-avoid text-[13px] leading-snug print:mt-3 print:text-[12px]">
        <h3 className="font-[650]">How it was measured</h3>
        {sheet.method.map((line) => (
          <p key={line}>{line}</p>
        ))}
        {view.checks.map((check) => (
          <p key={check.code + check.runs.join()}>
            {check.place}: {check.title} {check.says}
          </p>
        ))}
        <p className="mt-2">
          <b>Disclosure.</b> {view.disclosure}
        </p>
      </section>
    </article>
  );
}

function RunTable({ rows }: { rows: Schemas["SheetRow"][] }) {
  const head = "border-b border-line py-1 pr-3 text-left text-sm font-medium text-ink2";
  const cell = "border-b border-hair py-1 pr-3 whitespace-nowrap print:py-0.5";
  // One wiring and tone for all is said once, above the table.
  const common = rows.every((row) => row.words === rows[0]?.words) ? rows[0]?.words : undefined;
  return (
    <div role="region" aria-label="Every run" tabIndex={0} className="relative mt-4 overflow-x-auto">
      <table className="w-full border-collapse text-[13px]">
        <caption className="text-left text-[13px] font-[650]">
          Every run{common !== undefined && <span className="font-normal text-ink2">, {common}</span>}
        </caption>
        <thead>
          <tr>
            {["Load", "Mode", "Power", "Of claim", "Supply", "Draw", "Efficiency", ""].map((name, i) => (
              <th key={i} scope="col" className={head}>
                {name || <span className="sr-only">Remarks</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, i) => (
            <tr key={i}>
              <td className={cell}>
                <span className="num">{row.load}</span>
                {common === undefined && <small className="block text-xs text-ink2">{row.words}</small>}
              </td>
              <td className={cell}>{row.mode}</td>
              <td className={`${cell} num`}>{row.power && <Figure figure={row.power} plusMinus />}</td>
              <td className={`${cell} num`}>{row.of_claim && <Figure figure={row.of_claim} />}</td>
              <td className={`${cell} num`}>{row.end_v}</td>
              <td className={`${cell} num`}>{row.current}</td>
              <td className={`${cell} num`}>{row.efficiency && <Figure figure={row.efficiency} />}</td>
              <td className="border-b border-hair py-1 text-xs text-ink2">{row.remark}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
