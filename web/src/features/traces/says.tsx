import type { ReactNode } from "react";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/button";
import { Disclosure } from "@/ui/disclosure";
import { Figure } from "@/ui/figure";
import { useNotice } from "@/ui/notice";
import { useSettings } from "../plan/use-settings";

/** Figures that are looked for seldom. */
const LATER = new Set([
  "Volts, rms",
  "Volts, peak",
  "Crest factor",
  "Flat for",
  "DC offset",
  "Power in",
  "Supply, mean",
  "Over the burst",
  "Limit",
]);

function List({ figures }: { figures: readonly Schemas["NamedFigure"][] }) {
  return (
    <dl className="grid">
      {figures.map(({ name, figure, past_limit }) => (
        <div key={name} className="flex items-baseline justify-between gap-3 border-b border-hair py-0.5">
          <dt className="text-step text-ink2">{name}</dt>
          <dd>
            <Figure figure={figure} plusMinus className={`text-lg font-semibold ${past_limit ? "text-stop" : ""}`} />
          </dd>
        </div>
      ))}
    </dl>
  );
}

/** The figures of a stretch, each with its working; doubts about the recording; where clipping begins. */
export function Says({
  view,
  doubts,
  repeats,
  sessionId,
  ladder,
  children,
}: {
  view: Schemas["StretchView"] | undefined;
  doubts: readonly Schemas["Doubt"][];
  repeats: readonly Schemas["RepeatedBursts"][];
  sessionId: string;
  ladder: Schemas["LadderView"];
  /** Stands between the figures and what is noted of them. */
  children: ReactNode;
}) {
  const settings = useSettings(sessionId, ladder);
  const { tell } = useNotice();
  if (!view) return null;
  const { stretch, onset } = view;
  const first = view.figures.filter(({ name }) => !LATER.has(name));
  const others = view.figures.filter(({ name }) => LATER.has(name));
  const takeOnset = () => {
    if (!onset) return;
    const gain = ladder.settings.gain ?? { filters_out: false, boost_off: false, extra_drive_db: null, source: null };
    settings.change(
      { gain: { ...gain, onset_v: Number(onset.volts_rms.toPrecision(4)) } },
      { onDone: () => tell({ says: "The onset of clipping is the gain's second step now.", look: "plain", undo: true }) },
    );
  };
  return (
    <section aria-label="Figures" className="grid gap-3">
      <h3 className="text-note font-firm text-ink2">What it says</h3>
      <List figures={first} />
      {others.length > 0 && (
        <Disclosure says="More figures">
          <List figures={others} />
        </Disclosure>
      )}
      {children}
      {repeats.map((repeat) => (
        <p key={repeat.cycles} className="text-step text-ink2">
          {repeat.count} bursts of {repeat.cycles} cycles in it, all within {repeat.spread_db.toFixed(2)}&#8239;dB.
        </p>
      ))}
      {stretch.clipped === true && (
        <p className="rounded bg-ochre-wash px-3 py-2 text-step">
          <b>It clips.</b> {onset?.says}
        </p>
      )}
      {onset && (
        <Button size="low" className="justify-self-start" onClick={takeOnset}>
          Take {onset.volts_rms.toPrecision(4)} V as the onset
        </Button>
      )}
      {doubts.map((doubt) => (
        <p key={`${doubt.code}${String(doubt.from_s)}`} className="rounded bg-ochre-wash px-3 py-2 text-step">
          {doubt.says}
        </p>
      ))}
    </section>
  );
}
