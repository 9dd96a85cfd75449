import { ChevronDown, ChevronRight } from "lucide-react";
import type { ReactNode } from "react";
import type { Schemas } from "@/api/client";
import { Figure } from "@/ui/figure";
import { MODES } from "../ladder/place";
import { PlanDetail } from "./plan-detail";
import { useRung } from "./use-rung";

type Rung = Schemas["LadderRung"];

const SHORT: Record<Schemas["Mode"], string> = { certified: "cert", clipping: "clip", dynamic: "dyn" };

/** One rung: its runs, and what they will ask. */
export function PlanRow({
  sessionId,
  rung,
  named,
  revision,
  target,
  frozen,
  open,
  onOpen,
}: {
  sessionId: string;
  rung: Rung;
  /** Another wiring or tone begins here: say which. */
  named: boolean;
  revision: number;
  target: Schemas["Figure"] | undefined;
  /** A run is armed: nothing its gates were judged on can change. */
  frozen: boolean;
  open: boolean;
  onOpen: () => void;
}) {
  const { expected, bars } = rung;
  const planned = rung.cells.filter((cell) => cell.planned);
  const shut = planned.some((cell) => cell.shut);
  const Chevron = open ? ChevronDown : ChevronRight;
  return (
    <section aria-label={`${rung.label}, ${rung.words}`} className="mt-3 border-t border-line pt-2.5">
      {named && <p className="mb-1.5 text-note font-firm text-ink2">{rung.words}</p>}
      <div className="grid grid-cols-2 gap-x-4 gap-y-3 lg:grid-cols-[104px_150px_1fr_1fr_1fr]">
        <div>
          <button
            type="button"
            aria-expanded={open}
            className="flex items-center gap-1 rounded text-left text-figure leading-tight font-strong hover:bg-hair"
            style={{ fontStretch: "106%" }}
            onClick={onOpen}
          >
            {rung.label}
            <Chevron size={16} className="text-ink2" aria-hidden />
            <span className="sr-only">: more of it</span>
          </button>
          <small className="block text-fine font-medium text-ink3">{rung.real}</small>
        </div>
        <Modes sessionId={sessionId} rung={rung} revision={revision} shut={shut} frozen={frozen} />
        {expected && bars ? (
          <>
            <Asked value={<Figure figure={expected.power} />} under={expected.basis_words}>
              <Bar fill={bars.power} look="bg-hatch-dark" mark={bars.claim} />
            </Asked>
            <Asked
              value={
                <>
                  <Figure figure={{ ...expected.low_a, unit: "" }} className={expected.past_fuses ? "text-ochre" : ""} />
                  <span className="px-1 font-sans text-base font-normal text-ink2">to</span>
                  <Figure figure={expected.high_a} className={expected.past_fuses ? "text-ochre" : ""} />
                </>
              }
              under={fuseWords(expected)}
            >
              <Bar fill={bars.high_a} look={expected.past_fuses ? "bg-ochre" : "bg-hatch-dark"} from={bars.low_a} mark={bars.fuses} />
            </Asked>
            <Asked
              value={expected.end_v ? <Figure figure={expected.end_v} /> : <span className="font-sans text-body text-ink2">not known</span>}
              under={expected.end_says}
            >
              {bars.end_v != null && (
                <Bar fill={bars.end_v} look={expected.below_window ? "bg-ochre" : "bg-hatch-dark"} mark={bars.reference_v} />
              )}
            </Asked>
          </>
        ) : (
          <p className="col-span-2 text-step text-ink2 lg:col-span-3">
            Nothing is claimed or run for this wiring yet: what it will ask cannot be said.
          </p>
        )}
      </div>
      {open && <PlanDetail sessionId={sessionId} rung={rung} revision={revision} target={target} frozen={frozen} />}
    </section>
  );
}

function fuseWords(expected: Schemas["Expectation"]): string {
  if (!expected.fuse_ratio) return "no fuses noted";
  const percent = `${expected.fuse_ratio.text}\u202f% of the fuses`;
  return expected.past_fuses ? `${percent} at most: ${expected.fuse_says ?? ""}` : `${percent} at most`;
}

function Modes({
  sessionId,
  rung,
  revision,
  shut,
  frozen,
}: {
  sessionId: string;
  rung: Rung;
  revision: number;
  shut: boolean;
  frozen: boolean;
}) {
  const { change, pending } = useRung(sessionId, rung, revision);
  const count = rung.set.modes.length;
  const toggle = (mode: Schemas["Mode"]) => {
    const modes = MODES.filter((known) => (known === mode ? !rung.set.modes.includes(mode) : rung.set.modes.includes(known)));
    change({ modes }, modes.length === 0 ? `${rung.label} left out.` : `${rung.label}: ${modes.join(", ")}.`);
  };
  return (
    <div>
      <p className="text-body leading-snug">
        {shut ? (
          <b className="font-bold text-stop">Gated</b>
        ) : count === 0 ? (
          <span className="text-ink2">left out</span>
        ) : (
          <>
            <span className="num text-lead">{count}</span> {count === 1 ? "run" : "runs"}
          </>
        )}
      </p>
      <div className="mt-1 flex gap-1.5">
        {MODES.map((mode) => (
          <button
            key={mode}
            type="button"
            aria-pressed={rung.set.modes.includes(mode)}
            disabled={pending || frozen}
            className="rounded border border-dashed border-edge px-[7px] py-px text-sm text-ink3 hover:bg-hair aria-pressed:border-solid aria-pressed:border-line aria-pressed:bg-sheet aria-pressed:text-ink disabled:opacity-60"
            onClick={() => toggle(mode)}
          >
            {SHORT[mode]}
            <span className="sr-only">
              {mode.slice(SHORT[mode].length)} at {rung.label}
            </span>
          </button>
        ))}
      </div>
    </div>
  );
}

function Asked({ value, under, children }: { value: ReactNode; under: string; children?: ReactNode }) {
  return (
    <div className="min-w-0">
      <div className="num text-xl leading-snug whitespace-nowrap">{value}</div>
      {children}
      <small className="mt-1 block text-sm leading-snug text-ink2">{under}</small>
    </div>
  );
}

/** A bar of 1, with an upright mark; from a lower end on it is lighter up to its upper end. */
function Bar({ fill, from, look, mark }: { fill: number; from?: number; look: string; mark: number | null | undefined }) {
  const percent = (value: number) => `${String(Math.min(100, Math.max(0, value * 100)))}%`;
  return (
    <div aria-hidden className="relative mt-1.5 h-3 bg-hair">
      <div className={`absolute inset-y-0 left-0 ${look} ${from === undefined ? "" : "opacity-45"}`} style={{ width: percent(fill) }} />
      {from !== undefined && <div className={`absolute inset-y-0 left-0 ${look}`} style={{ width: percent(from) }} />}
      {mark != null && <div className="absolute -top-1 h-5 w-0.5 bg-ink" style={{ left: `min(${percent(mark)}, calc(100% - 2px))` }} />}
    </div>
  );
}
