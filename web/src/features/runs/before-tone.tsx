import type { Schemas } from "@/api/client";
import { InstrumentsRow } from "@/features/live/instruments-row";
import { placeKey, type Cell, type Place, type Rung } from "../ladder/place";
import { BenchRow } from "./bench-row";
import { GateRow } from "./gate-row";
import { RestRow } from "./rest-row";
import { SoundRow } from "./sound";
import { ToneRow } from "./tone-row";

/** Everything that comes before the tone: rest, gate, tone, what is set, instruments. */
export function BeforeTone({
  sessionId,
  view,
  rung,
  cell,
  closed,
  setting,
  onMoved,
  nameOf,
}: {
  sessionId: string;
  view: Schemas["LadderView"];
  rung: Rung;
  cell: Cell;
  /** Nothing can be logged or driven now. */
  closed: boolean;
  setting: [on: boolean, set: (on: boolean) => void];
  onMoved: (rung: string) => void;
  nameOf: (place: Place) => string;
}) {
  const at = placeKey({ rung: rung.key, mode: cell.mode });
  return (
    <section aria-label="Before the tone" className="border-t border-line pt-2.5">
      <h2 className="text-note font-firm text-ink2">Before the tone</h2>
      <RestRow sessionId={sessionId} logged={view.ladder.logged} />
      <GateRow key={`gate ${at}`} sessionId={sessionId} rung={rung} cell={cell} armed={view.armed} />
      <ToneRow key={`tone ${at}`} rung={rung} cell={cell} />
      <BenchRow
        key={`bench ${at}`}
        rung={rung}
        sessionId={sessionId}
        revision={view.revisions[rung.key] ?? 0}
        setting={setting[0]}
        setSetting={setting[1]}
        onMoved={onMoved}
      />
      <InstrumentsRow
        key={`live ${at}`}
        sessionId={sessionId}
        rung={rung}
        cell={cell}
        closed={closed || view.halt != null}
        nameOf={nameOf}
      />
      <SoundRow />
    </section>
  );
}
