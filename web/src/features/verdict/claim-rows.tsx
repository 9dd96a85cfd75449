import type { Schemas } from "@/api/client";
import { Figure } from "@/ui/figure";
import { SupplySlider } from "./supply-slider";

type Row = Schemas["ClaimRow"];
type Outcome = Schemas["Outcome"];

const GOOD: readonly Outcome[] = ["beats", "holds", "holds-within", "max-met"];
const BAD: readonly Outcome[] = ["short", "far-short", "max-missed", "only-clipping", "only-dynamic"];

const tone = (outcome: Outcome | null | undefined) =>
  !outcome ? "" : GOOD.includes(outcome) ? "text-verdigris" : BAD.includes(outcome) ? "text-stop" : "text-ochre";

/** Each claim with its three bars and its mark. */
export function ClaimRows({ drawn }: { drawn: Schemas["DrawnVerdict"] }) {
  const { rows } = drawn.view;
  return (
    <div className="mt-4 border-b border-line">
      {rows.map((row, i) => (
        <ClaimRow key={row.claim_id} row={row} bars={drawn.bars[i] ?? ""} />
      ))}
      {rows.length === 0 && <p className="border-t border-line py-4 text-ink2">No claim has been entered, and nothing was run yet.</p>}
      {rows.length > 0 && <Legend />}
    </div>
  );
}

function ClaimRow({ row, bars }: { row: Row; bars: string }) {
  return (
    <section
      aria-label={`${row.load}, ${row.under.join(", ")}: ${row.outcome_words}`}
      className="grid gap-x-[18px] gap-y-1 break-inside-avoid border-t border-line py-3 print:py-1 sm:grid-cols-[112px_1fr_160px]"
    >
      <div>
        <b className="text-figure leading-tight font-strong" style={{ fontStretch: "112%" }}>
          {row.load}
        </b>
        {row.under.map((line) => (
          <small key={line} className="block text-sm text-ink2">
            {line}
          </small>
        ))}
      </div>
      <div className="relative">
        <div dangerouslySetInnerHTML={{ __html: bars }} />
        {row.bars.map((bar) => (
          <BarLabel key={bar.track} bar={bar} />
        ))}
      </div>
      <div className="pt-2.5">
        <b className={`block text-lead leading-tight font-bold ${tone(row.outcome)}`}>{row.outcome_words}</b>
        <Says row={row} />
        {row.if_supply.length > 1 && <SupplySlider points={row.if_supply} />}
      </div>
    </section>
  );
}

// The chart's own measures: the first bar's top, and from bar to bar.
const TOP = 15;
const STEP = 23;

/** The figure of a bar stands behind its end and its ±, clear of the claim mark. */
function BarLabel({ bar }: { bar: Row["bars"][number] }) {
  return (
    <span
      className="absolute text-note whitespace-nowrap"
      style={{ left: `calc(${String(bar.label_fraction * 100)}% + 7px)`, top: TOP + STEP * bar.track }}
    >
      <Figure figure={bar.total} unit={bar.mode === "certified"} />
      {bar.burst != null && <small className="ml-1.5 text-xs text-ink2">{bar.burst}</small>}
    </span>
  );
}

function Says({ row }: { row: Row }) {
  const [low, high] = row.at_reference;
  return (
    <small className="mt-0.5 block text-sm leading-[1.35] text-ink2">
      {row.as_read && (
        <>
          <Figure figure={row.as_read} /> as read
          {row.shortfall && row.as_read.value < 99.95 && (
            <>
              , <Figure figure={row.shortfall} />
            </>
          )}
          <br />
        </>
      )}
      {low && (
        <>
          <Figure figure={high ? { ...low, unit: "" } : low} />
          {high && (
            <>
              {" to "}
              <Figure figure={high} />
            </>
          )}{" "}
          at {row.reference}
          <br />
        </>
      )}
      {row.remarks.map((remark) => (
        <span key={remark} className="block">
          {remark}
        </span>
      ))}
    </small>
  );
}

function Legend() {
  const swatch = "inline-block h-[9px] w-[22px]";
  return (
    <div className="flex flex-wrap items-center gap-x-5 gap-y-1 border-t border-line py-3 text-sm text-ink2">
      <span className="flex items-center gap-1.5">
        <i className={`${swatch} fill-certified`} /> certified
      </span>
      <span className="flex items-center gap-1.5">
        <i className={`${swatch} fill-clipping`} /> clipping
      </span>
      <span className="flex items-center gap-1.5">
        <i className={`${swatch} fill-dynamic`} /> dynamic burst
      </span>
      <span className="flex items-center gap-1.5">
        <i className="relative inline-block h-[9px] w-[18px] border-x border-ink before:absolute before:inset-x-0 before:top-1 before:border-t before:border-ink" />{" "}
        ±, k = 2
      </span>
      <span className="no-print ml-auto">every figure opens its working</span>
    </div>
  );
}
