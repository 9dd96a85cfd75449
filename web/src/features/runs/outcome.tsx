import type { ReactNode } from "react";
import type { Schemas } from "@/api/client";
import { Figure } from "@/ui/figure";

type Figures = Schemas["RunFigures"];

/** What the readings come to: against the claim, at its voltage, efficiency, sag; then total, heat, draw. */
export function Outcome({ figures, stale }: { figures: Figures | null; stale: boolean }) {
  const { at_reference: brought } = figures ?? {};
  return (
    <section aria-label="Result" data-stale={stale || undefined} className={stale ? "opacity-60" : ""}>
      <div className="mt-2.5 grid grid-cols-2 gap-y-2 sm:grid-cols-[1.25fr_1fr_1fr_1fr] metre:mt-4">
        <Result lead met={figures?.claim_met ?? false} name={figures?.claim ? `Against ${figures.claim} as read` : "Against a claim"}>
          {figures?.against && <Figure figure={figures.against} />}
        </Result>
        <Result far name={brought ? `Brought to ${brought.reference}` : "At the claim’s voltage"}>
          {brought && (
            <>
              <Figure figure={brought.high ? { ...brought.low, unit: "" } : brought.low} />
              {brought.high && (
                <>
                  <span className="px-1 font-sans text-base font-normal text-ink2 metre:text-2xl">to</span>
                  <Figure figure={brought.high} />
                </>
              )}
            </>
          )}
        </Result>
        <Result name="Efficiency">{figures?.efficiency && <Figure figure={figures.efficiency} />}</Result>
        <Result name="Sag from rest">{figures?.sag && <Figure figure={figures.sag} />}</Result>
      </div>
      <Also figures={figures} />
    </section>
  );
}

function Result({
  name,
  children,
  lead = false,
  met = false,
  far = lead,
}: {
  name: string;
  children: ReactNode;
  lead?: boolean;
  met?: boolean;
  /** It is among the figures that are read from three metres. */
  far?: boolean;
}) {
  const edge = lead ? (met ? "border-verdigris" : "border-edge") : "border-hair";
  return (
    <div className={`min-w-0 border-l-[3px] px-3.5 py-0.5 ${edge} ${far ? "" : "metre:hidden"}`}>
      <small className="block truncate text-sm text-ink2 metre:text-lg">{name}</small>
      <b className="num block min-h-[35px] text-2xl leading-snug font-semibold whitespace-nowrap metre:min-h-[74px] metre:text-metre metre:leading-tight">
        {children ?? <span className="text-ink3/70">—</span>}
      </b>
    </div>
  );
}

/** What else the readings come to. Its room is kept while there is none, so that nothing below it moves. */
function Also({ figures }: { figures: Figures | null }) {
  const parts: [string, Schemas["Figure"] | null | undefined][] = [
    ["total", figures?.total],
    ["draw", figures?.input],
    ["heat in amplifier", figures?.heat],
    ["channel balance", figures?.balance],
    ["fade over the hold", figures?.fade],
    ["better end of the cycles", figures?.best],
  ];
  return (
    <p className="mt-2 flex min-h-[24px] flex-wrap gap-x-5 gap-y-1 px-4 text-step text-ink2 max-sm:min-h-[52px] metre:hidden">
      {parts.map(
        ([name, figure]) =>
          figure && (
            <span key={name} className="whitespace-nowrap">
              {name} <Figure figure={figure} plusMinus={name === "total"} className="text-body font-semibold text-ink" />
            </span>
          ),
      )}
      {figures?.per_output.map((figure, i) => (
        <span key={i} className="whitespace-nowrap">
          output {i + 1} <Figure figure={figure} className="text-body font-semibold text-ink" />
        </span>
      ))}
    </p>
  );
}
