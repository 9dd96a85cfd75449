import { useState } from "react";
import type { Schemas } from "@/api/client";
import { Failed, Loading } from "@/ui/states";
import { useKeys } from "@/ui/use-keys";
import { ChannelRow } from "./channel-row";
import { ChannelsDialog } from "./channels-dialog";
import { LogPart } from "./log-part";
import { along, inside, type Sight, zoomed } from "./pyramid";
import { Says } from "./says";
import { TraceFoot } from "./trace-foot";
import { useSamples, useStretch, useTrace, useWave } from "./use-traces";
import { StretchViews } from "./views";
import { WaveCanvas } from "./wave-canvas";
import { KINDS, subjectOf, titleOf, unitOf } from "./words";

type Stretch = Schemas["Stretch"];
type Cut = Schemas["CutView"];

/** The stretch that most people come for: a burst, else a ramp, else the longest that is driven. */
function firstOf(stretches: readonly Stretch[]): number {
  for (const kind of ["burst", "ramp", "sweep"] as const) {
    const at = stretches.findIndex((stretch) => stretch.kind === kind);
    if (at >= 0) return at;
  }
  const lengths = stretches.map((stretch) => (stretch.kind === "quiet" ? 0 : stretch.to_s - stretch.from_s));
  return Math.max(0, lengths.indexOf(Math.max(...lengths)));
}

/** The mode that a stretch is most likely of. */
const modeOf = (stretch: Stretch | undefined): Schemas["Mode"] =>
  stretch?.kind === "burst" ? "dynamic" : stretch?.kind === "tone" && stretch.clipped === true ? "clipping" : "certified";

/** One recording: its wave, the stretch that is looked at, and what that says. */
export function TraceView({ sessionId, line, ladder }: { sessionId: string; line: Schemas["TraceLine"]; ladder: Schemas["LadderView"] }) {
  const { sha256 } = line;
  const rungs = ladder.ladder.rungs;
  const [rungKey, setRung] = useState(ladder.ladder.next?.rung ?? rungs[0]?.key ?? "");
  const rung = rungs.find((one) => one.key === rungKey) ?? rungs[0];
  const load = rung ? (rung.set.load_measured_ohm ?? rung.load_ohm) : undefined;
  const trace = useTrace(sessionId, line.is_there ? sha256 : undefined, load);
  const waves = useWave(sessionId, sha256, trace.data);
  const [channel, setChannel] = useState<number | null>(null);
  const [index, setIndex] = useState<number | null>(null);
  const [moved, setMoved] = useState<{ from_s: number; to_s: number } | null>(null);
  const [sight, setSight] = useState<Sight | null>(null);
  const [picked, setMode] = useState<Schemas["Mode"] | null>(null);
  const [scaling, setScaling] = useState(false);

  const report = trace.data?.report;
  const firstOutput = report?.channels.findIndex((own) => own.kind === "output") ?? 0;
  const at = channel ?? Math.max(0, firstOutput);
  const own = report?.channels[at];
  const stretches = own?.stretches ?? [];
  const n = Math.min(index ?? firstOf(stretches), Math.max(stretches.length - 1, 0));
  const stretch = stretches[n];
  const ends = moved ?? (stretch ? { from_s: stretch.from_s, to_s: stretch.to_s } : null);
  const cut: Cut | null = stretch && ends ? { channel: at, kind: stretch.kind, ...ends } : null;
  const near = useStretch(sessionId, sha256, cut, load).data;
  const rate = report?.sample_rate_hz ?? 1;
  const seconds = report?.seconds ?? 1;
  const seen = sight ?? { from: 0, to: seconds };
  const samples = useSamples(sessionId, sha256, at, {
    sight: seen,
    rate,
    piece: trace.data?.piece ?? 1,
    channels: trace.data?.channels.length ?? 1,
  });
  const see = (next: Sight) => setSight(inside(next, seconds, 16 / rate));
  const choose = (next: number) => {
    setIndex(Math.max(0, Math.min(stretches.length - 1, next)));
    setMoved(null);
    setMode(null);
    const to = stretches[next];
    if (to) see(zoomed({ from: to.from_s, to: to.to_s }, (to.from_s + to.to_s) / 2, 1.35));
  };
  const turn = (by: number) => {
    const count = report?.channels.length ?? 1;
    setChannel((at + by + count) % count);
    setIndex(null);
    setMoved(null);
    setMode(null);
  };
  const step = (by: number) => {
    for (let next = n + by; next >= 0 && next < stretches.length; next += by) if (stretches[next]?.kind !== "quiet") return choose(next);
  };
  const middle = (seen.from + seen.to) / 2;
  useKeys({
    ArrowLeft: () => see(along(seen, -0.2)),
    ArrowRight: () => see(along(seen, 0.2)),
    "+": () => see(zoomed(seen, middle, 0.6)),
    "=": () => see(zoomed(seen, middle, 0.6)),
    "-": () => see(zoomed(seen, middle, 1 / 0.6)),
    "0": () => setSight(null),
    "[": () => turn(-1),
    "]": () => turn(1),
    ",": () => step(-1),
    ".": () => step(1),
    s: () => setScaling(true),
  });
  if (!line.is_there)
    return <p className="p-5 text-stop">Its file is missing: restore a backup, or remove the recording and add it again.</p>;
  if (trace.error && !trace.data) return <Failed error={trace.error} retry={() => void trace.refetch()} />;
  if (!trace.data || !report || !own) return <Loading />;
  const mode = picked ?? modeOf(near?.stretch ?? stretch);
  const scale = trace.data.channels[at]?.scale ?? 1;
  const wave = samples ?? (waves?.[at] ? { pyramid: waves[at], offset: 0 } : undefined);
  const doubts = report.doubts.filter((doubt) => doubt.channel === at + 1);
  return (
    <div className="grid min-w-0 flex-1 grid-cols-[minmax(0,1fr)] lg:grid-cols-[minmax(0,1fr)_352px]">
      <div className="grid min-w-0 content-start gap-3 px-5 py-4">
        <h2 className="flex flex-wrap items-baseline gap-x-3 text-2xl font-bold">
          <span className="wide">{stretch ? titleOf(near?.stretch ?? stretch) : "Nothing is driven in it"}</span>
          <span className="text-base font-normal text-ink2">
            {rung && `into ${rung.label} · `}
            {subjectOf(trace.data.channels[at] ?? { kind: "unused" })}
          </span>
        </h2>
        <section aria-label="Wave" className="min-w-0 rounded-lg border border-line bg-sheet p-1.5">
          {wave ? (
            <WaveCanvas
              pyramid={wave.pyramid}
              offset={wave.offset}
              rate={rate}
              scale={scale}
              unit={unitOf(own.kind)}
              sight={seen}
              see={see}
              stretches={stretches}
              chosen={stretch && stretch.kind !== "quiet" ? ends : null}
              onChoose={choose}
              onCut={(from_s, to_s) => setMoved({ from_s: Math.max(0, from_s), to_s: Math.min(seconds, to_s) })}
            />
          ) : (
            <div className="h-[210px]" />
          )}
        </section>
        <ChannelRow
          channels={trace.data.channels}
          at={at}
          turn={turn}
          onScales={() => setScaling(true)}
          onCutsBack={moved ? () => setMoved(null) : undefined}
        />
        {near && <StretchViews view={near} limit={trace.data.limit_ratio} />}
        {stretch && stretch.kind === "quiet" && <p className="text-ink2">{KINDS.quiet}: choose a stretch that is driven.</p>}
      </div>
      <aside aria-label="What it says" className="grid min-w-0 content-start gap-4 border-line px-5 py-4 max-lg:border-t lg:border-l">
        <Says view={near} doubts={doubts} repeats={own.repeats} sessionId={sessionId} ladder={ladder}>
          {cut && rung && stretch?.kind !== "quiet" && (
            <LogPart
              sessionId={sessionId}
              sha256={sha256}
              cut={cut}
              rungs={rungs}
              rung={rung.key}
              setRung={setRung}
              mode={mode}
              setMode={setMode}
            />
          )}
        </Says>
        <TraceFoot sessionId={sessionId} line={line} cut={cut} load={load} />
      </aside>
      {scaling && (
        <ChannelsDialog
          sessionId={sessionId}
          sha256={sha256}
          view={trace.data}
          meters={ladder.meters}
          span={ends}
          onClose={() => setScaling(false)}
        />
      )}
    </div>
  );
}
