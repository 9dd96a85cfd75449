import { useEffect, useRef, useState } from "react";
import { createPortal } from "react-dom";
import { useSearchParams } from "react-router";
import type { Schemas } from "@/api/client";
import { useUndo } from "@/ui/use-undo";
import { useKeys } from "@/ui/use-keys";
import { LivePanel } from "@/features/live/live-panel";
import { RampDialog } from "@/features/live/ramp-dialog";
import { StartLive } from "@/features/live/start-live";
import { isRunning, useLive } from "@/features/live/use-live";
import { AddLoadDialog } from "./add-load";
import { ArmedStrip } from "./armed-strip";
import { Cautions } from "./cautions";
import { CorrectDialog } from "./correct-dialog";
import { GatePanel } from "./gate-panel";
import { HaltPanel } from "./halt-panel";
import { HistoryDialog } from "./history-dialog";
import { IncidentDialog } from "./incident-dialog";
import { KeyBar } from "./key-bar";
import { LadderView } from "./ladder-view";
import { cellAt, lastLogged, MODES, moved, nextFree, samePlace, type Ladder, type Mode, type Place } from "./place";
import { RunAtHand } from "./run-at-hand";
import { RestStrip } from "./rest-strip";
import { RunHead } from "./run-head";
import { SettleDialog } from "./settle-dialog";
import { ToneStrip } from "./tone-strip";

type Brief = Schemas["RunBrief"];

interface Props {
  sessionId: string;
  view: Schemas["LadderView"];
  channels: number;
}

/** Where on the ladder we are: kept in the address too, so that a reload comes back to it. */
function usePlace(ladder: Ladder): [Place, (step: (from: Place) => Place | null) => void] {
  const [search, setSearch] = useSearchParams();
  const [chosen, setChosen] = useState<Place | null>(() => {
    const rung = search.get("rung");
    const mode = MODES.find((known) => known === search.get("mode"));
    return rung !== null && mode ? { rung, mode } : null;
  });
  const first: Place = { rung: ladder.rungs[0]?.key ?? "", mode: "certified" };
  const sound = (place: Place | null) => (place && cellAt(ladder, place) ? place : null) ?? ladder.next ?? first;
  const place = sound(chosen);
  const { rung, mode } = place;
  useEffect(() => setSearch({ rung, mode }, { replace: true, preventScrollReset: true }), [rung, mode, setSearch]);
  // Keys may come faster than the page is drawn: each starts from where the last one went.
  return [place, (step) => setChosen((from) => step(sound(from)) ?? from)];
}

export function Bench({ sessionId, view, channels }: Props) {
  const { ladder } = view;
  const [place, step] = usePlace(ladder);
  const [setting, setSetting] = useState(false);
  const [adding, setAdding] = useState(false);
  const [happened, setHappened] = useState<string | null>(null);
  const [wrong, setWrong] = useState(false);
  const [correcting, setCorrecting] = useState<Brief | null>(null);
  const [striking, setStriking] = useState(false);
  const [ramp, setRamp] = useState<Brief | null>(null);
  const [history, setHistory] = useState<Brief | null>(null);
  const line = useRef<HTMLInputElement>(null);
  const undo = useUndo();
  const seen = useLive();
  const here = cellAt(ladder, place);
  const walk = (next: (from: Place) => Place | null) => {
    step(next);
    setSetting(false);
    setHappened(null);
    line.current?.focus();
  };
  const goTo = (next: Place | null) => walk(() => next);
  const onward = () => walk((from) => nextFree(ladder, from));
  const move = (down: number, right: number) => walk((from) => moved(ladder, from, down, right));
  const takeBack = () => void undo();
  const openSettings = () => setSetting(true);
  const logged = here?.cell.runs.at(-1) ?? null;
  useKeys({
    ArrowDown: () => move(1, 0),
    ArrowUp: () => move(-1, 0),
    ArrowRight: () => move(0, 1),
    ArrowLeft: () => move(0, -1),
    "+": onward,
    r: () => goTo(lastLogged(ladder)),
    s: openSettings,
    "*": openSettings,
    u: takeBack,
    "-": takeBack,
    l: () => setAdding(true),
    x: () => setWrong(true),
    e: () => setCorrecting(logged),
    h: () => setHistory(logged),
    m: () => setStriking(view.meters.length > 0),
  });
  if (!here) return null;
  const { rung, cell } = here;
  // The run that is driven, or was just driven, at this place.
  const driven = seen.live?.session_id === sessionId && samePlace(seen.live.place, place);
  const running = driven && isRunning(seen);
  const ready = view.cautions_read || ladder.logged > 0;
  const open = !cell.shut || happened === `${rung.key} ${cell.mode}`;
  return (
    <div className="grid flex-1 content-start lg:content-stretch lg:grid-cols-[456px_1fr]">
      <BenchState rung={rung} />
      <main className="flex min-w-0 flex-col lg:order-2">
        <div className="flex-1 px-4 py-[18px] sm:px-6">
          <RunHead
            key={`${rung.key}${cell.mode}`}
            rung={rung}
            cell={cell}
            sessionId={sessionId}
            revision={view.revisions[rung.key] ?? 0}
            setting={setting}
            setSetting={(on) => {
              setSetting(on);
              if (!on) line.current?.focus();
            }}
            onMoved={goTo}
          />
          {!setting && !running && <ToneStrip key={`${rung.key} tone ${cell.mode}`} rung={rung} cell={cell} />}
          {ladder.logged > 0 && !view.halt && !running && <RestStrip sessionId={sessionId} />}
          {view.halt && <HaltPanel sessionId={sessionId} halt={view.halt} />}
          {driven && <LivePanel seen={seen} />}
          {running ? null : !ready ? (
            <Cautions sessionId={sessionId} cautions={view.cautions} />
          ) : open ? (
            <>
              {!cell.shut && <ArmedStrip sessionId={sessionId} rung={rung} cell={cell} armed={view.armed} />}
              {!view.halt && <StartLive sessionId={sessionId} rung={rung} cell={cell} />}
              {cell.mind.length > 0 && <Mind says={cell.mind} />}
              <RunAtHand
                key={`${rung.key} ${cell.mode}`}
                sessionId={sessionId}
                rung={rung}
                cell={cell}
                line={line}
                happened={cell.shut}
                meters={view.meters}
                steps={view.step_rows[`${rung.key} ${cell.mode}`] ?? []}
                onCorrect={setCorrecting}
                onHistory={setHistory}
                onRamp={setRamp}
                onLogged={goTo}
                onOnward={onward}
              />
            </>
          ) : (
            <GatePanel
              key={`${rung.key} ${cell.mode}`}
              sessionId={sessionId}
              rung={rung}
              cell={cell}
              onHappened={() => setHappened(`${rung.key} ${cell.mode}`)}
            />
          )}
        </div>
        <KeyBar />
      </main>
      <LadderView ladder={ladder} place={place} go={goTo} onAdd={() => setAdding(true)} />
      {wrong && <IncidentDialog sessionId={sessionId} rung={rung} cell={cell} onClose={() => setWrong(false)} />}
      {correcting && <CorrectDialog sessionId={sessionId} run={correcting} onClose={() => setCorrecting(null)} />}
      {striking && (
        <SettleDialog
          sessionId={sessionId}
          settling={{ runId: "", kind: "meter", what: view.meters[0] ?? "" }}
          meters={view.meters}
          onClose={() => setStriking(false)}
        />
      )}
      {ramp && <RampDialog sessionId={sessionId} runId={ramp.id} onClose={() => setRamp(null)} />}
      {history && <HistoryDialog sessionId={sessionId} runId={history.id} onClose={() => setHistory(null)} />}
      {adding && (
        <AddLoadDialog
          sessionId={sessionId}
          channels={channels}
          onClose={() => setAdding(false)}
          onAdded={(key) => {
            setAdding(false);
            goTo({ rung: key, mode: "certified" satisfies Mode });
          }}
        />
      )}
    </div>
  );
}

/** What to mind at this very run. */
function Mind({ says }: { says: string[] }) {
  return (
    <ul aria-label="Mind" className="mt-3 grid gap-1 border-l-[3px] border-ochre pl-3 text-[13.5px]">
      {says.map((line) => (
        <li key={line}>{line}</li>
      ))}
    </ul>
  );
}

/** The bench's state, at the right of the top of the page. */
function BenchState({ rung }: { rung: Schemas["LadderRung"] }) {
  const place = document.getElementById("bench-state");
  const { rest_v: rest, charger_on: charger } = rung.set;
  const words = [
    rest == null ? "rest voltage not set" : `rest ${rest.toFixed(2)} V`,
    charger == null ? null : charger ? "charger on" : "charger off",
  ];
  return place && createPortal(words.filter(Boolean).join(", "), place);
}
