import type { ReactNode } from "react";
import { Button } from "@/ui/button";
import { writePercent } from "@/ui/numbers";
import type { Seen } from "./live-stream";
import { LazyRampPlots as RampPlots } from "./lazy-ramp-plots";
import { stopLive } from "./stop";

const digits = (value: number | null | undefined, decimals: number) => (value == null ? null : value.toFixed(decimals));
const watts = (value: number) => (value >= 100 ? value.toFixed(0) : value >= 10 ? value.toFixed(1) : value.toFixed(2));

/** A run as it is driven: what the meters show now, said large; the curve so far; the stop. */
export function LivePanel({ seen }: { seen: Seen }) {
  const { live } = seen;
  const rounds = live && seen.seq === live.seq ? seen.rounds : [];
  const last = rounds.at(-1);
  if (!live) return null;
  const power = last?.power_w.reduce((sum, one) => sum + one, 0);
  const over = last?.thd_ratio != null && last.thd_ratio > live.limit_ratio;
  return (
    <section aria-label="Live run" className="mt-3 grid gap-3">
      <div className="grid grid-cols-2 rounded-lg border-2 border-copper bg-field lg:grid-cols-[1.4fr_1fr_1fr_1fr_1fr]">
        <Shown name="Watts, all outputs" large>
          {power === undefined ? null : watts(power)}
        </Shown>
        <Shown name={`Distortion, limit ${writePercent(live.limit_ratio)} %`} warn={over} unit="%">
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
      </div>
      <div className="flex flex-wrap items-center gap-3">
        <p aria-live="polite" className="min-w-0 flex-1 text-body font-semibold">
          {live.says}
        </p>
        {live.ended == null && (
          <Button look="stop" className="px-6 py-3 text-lg" onClick={() => void stopLive()}>
            {live.method.kind === "watch" ? "Take it" : "Stop"}{" "}
            <kbd className="num rounded border border-current px-1.5 text-fine">Esc</kbd>
          </Button>
        )}
      </div>
      <RampPlots rounds={rounds} limit={live.limit_ratio} />
    </section>
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
    <div className="min-w-0 border-hair px-3.5 py-2 not-first:border-l">
      <small className="block truncate text-sm text-ink2">{name}</small>
      <b
        className={`num block font-semibold whitespace-nowrap ${large ? "text-4xl leading-tight" : "text-2xl leading-snug"} ${warn ? "text-stop" : ""}`}
      >
        {children ?? <span className="text-ink3/70">—</span>}
        {children != null && <span className="ml-1 text-mark font-normal text-ink2">{unit}</span>}
      </b>
    </div>
  );
}
