import type { ReactNode } from "react";
import { writePercent } from "@/ui/numbers";
import type { Seen } from "./live-stream";
import { LazyRampPlots as RampPlots } from "./lazy-ramp-plots";

const digits = (value: number | null | undefined, decimals: number) => (value == null ? null : value.toFixed(decimals));
const watts = (value: number) => (value >= 100 ? value.toFixed(0) : value >= 10 ? value.toFixed(1) : value.toFixed(2));

const roundsOf = (seen: Seen) => (seen.live && seen.seq === seen.live.seq ? seen.rounds : []);

/** What the meters show now, said large: in the place of a run's result while it is driven. */
export function LiveFigures({ seen }: { seen: Seen }) {
  const { live } = seen;
  if (!live) return null;
  const last = roundsOf(seen).at(-1);
  const power = last?.power_w.reduce((sum, one) => sum + one, 0);
  const over = last?.thd_ratio != null && last.thd_ratio > live.limit_ratio;
  return (
    <section
      aria-label="Live run"
      className="mt-2.5 grid h-[108px] grid-cols-3 content-start rounded-lg border-2 border-copper bg-field sm:h-[82px] sm:auto-cols-fr sm:grid-flow-col sm:grid-cols-[1.5fr] metre:h-[140px]"
    >
      <Shown name="Watts, all outputs" large>
        {power === undefined ? null : watts(power)}
      </Shown>
      <Shown name={`THD, limit ${writePercent(live.limit_ratio)} %`} warn={over} unit="%">
        {digits(last?.thd_ratio == null ? null : 100 * last.thd_ratio, 2)}
      </Shown>
      <Shown name="Supply" unit="V">
        {digits(last?.supply_v, 2)}
      </Shown>
      <Shown name="Draw" unit="A">
        {digits(last?.supply_a, 1)}
      </Shown>
      <Shown name="Level" unit="dB">
        {digits(last?.level_db, 1)?.replace("-", "−") ?? null}
      </Shown>
      {last?.temperature_c != null && (
        <Shown name="Heatsink" unit="°C" warn={last.temperature_c > 70}>
          {digits(last.temperature_c, 0)}
        </Shown>
      )}
    </section>
  );
}

/** What the driven run is doing, in the place of a doubt. */
export function LiveWords({ seen }: { seen: Seen }) {
  return (
    <p aria-live="polite" className="text-body leading-snug font-semibold metre:text-2xl">
      {seen.live?.says}
    </p>
  );
}

/** The curve so far; of a run that is over, how it ended. */
export function LivePlots({ seen }: { seen: Seen }) {
  if (!seen.live) return null;
  return (
    <div className="mt-3 grid gap-3">
      {seen.live.ended != null && <LiveWords seen={seen} />}
      <RampPlots rounds={roundsOf(seen)} limit={seen.live.limit_ratio} />
    </div>
  );
}

function Shown({
  name,
  children,
  unit = "W",
  large = false,
  warn = false,
}: {
  name: string;
  children: ReactNode;
  unit?: string;
  large?: boolean;
  warn?: boolean;
}) {
  return (
    <div className="min-w-0 border-hair px-3 py-1 not-first:border-l sm:py-1.5">
      <small className="block truncate text-sm text-ink2">{name}</small>
      <b
        className={`num block font-semibold whitespace-nowrap ${large ? "text-3xl leading-tight sm:text-4xl metre:text-metre" : "text-xl leading-snug sm:text-2xl metre:text-4xl"} ${warn ? "text-stop" : ""}`}
      >
        {children ?? <span className="text-ink3/70">—</span>}
        {children != null && <span className="ml-1 text-mark font-normal text-ink2">{unit}</span>}
      </b>
    </div>
  );
}
