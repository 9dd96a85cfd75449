import { useState } from "react";
import type { Schemas } from "@/api/client";
import { LivePanel } from "@/features/live/live-panel";
import { StartLive } from "@/features/live/start-live";
import { isRunning, useLive } from "@/features/live/use-live";
import { useTopState } from "@/ui/top-state";
import { goHome, useKeys } from "@/ui/use-keys";
import { useUndo } from "@/ui/use-undo";
import { ArmedStrip } from "./armed-strip";
import { BenchDialogs } from "./bench-dialogs";
import { Cautions } from "./cautions";
import { GatePanel } from "./gate-panel";
import { HaltPanel } from "./halt-panel";
import { KeyBar } from "./key-bar";
import { LadderView } from "./ladder-view";
import { lineStore } from "./line-store";
import { cellAt, lastLogged, moved, nextFree, placeKey, samePlace, type Place } from "../ladder/place";
import type { Opened } from "./opened";
import { RestStrip } from "./rest-strip";
import { RunAtHand } from "./run-at-hand";
import { RunHead } from "./run-head";
import { ToneStrip } from "./tone-strip";
import { usePlace } from "./use-place";
import { useSteadyScroll } from "./use-steady-scroll";

interface Props {
  amplifierId: string;
  sessionId: string;
  view: Schemas["LadderView"];
  channels: number;
}

/** Why nothing can be logged at the run at hand; null when it can. */
const closedBy = (running: boolean, ready: boolean, shut: boolean) =>
  running
    ? "A run is under way: what you type is kept, and logged by none."
    : !ready
      ? "Tick the cautions first: what you type is kept."
      : shut
        ? "This run is gated: what you type is kept, and not logged."
        : null;

export function Bench({ amplifierId, sessionId, view, channels }: Props) {
  const { ladder } = view;
  const [place, step] = usePlace(ladder);
  const [setting, setSetting] = useState(false);
  const [opened, setOpened] = useState<Opened | null>(null);
  const [happened, setHappened] = useState<string | null>(null);
  const { undo, next: undoNext } = useUndo(amplifierId);
  const seen = useLive();
  const main = useSteadyScroll();
  const here = cellAt(ladder, place);
  const walk = (next: (from: Place) => Place | null) => {
    step(next);
    setSetting(false);
    setHappened(null);
  };
  const goTo = (next: Place | null) => walk(() => next);
  const onward = () => walk((from) => nextFree(ladder, from));
  const move = (down: number, right: number) => walk((from) => moved(ladder, from, down, right));
  const logged = here?.cell.runs.at(-1);
  const openRun = (kind: "correct" | "history") => () => logged && setOpened({ kind, run: logged });
  useKeys({
    ArrowDown: () => move(1, 0),
    ArrowUp: () => move(-1, 0),
    ArrowRight: () => move(0, 1),
    ArrowLeft: () => move(0, -1),
    "+": onward,
    r: () => goTo(lineStore(sessionId).lastPlace ?? lastLogged(ladder)),
    s: () => setSetting(true),
    "*": () => setSetting(true),
    u: () => void undo(),
    l: () => setOpened({ kind: "load" }),
    x: () => setOpened({ kind: "incident" }),
    e: openRun("correct"),
    h: openRun("history"),
    m: () => view.meters.length > 0 && setOpened({ kind: "meter" }),
  });
  if (!here) return null;
  const { rung, cell } = here;
  const at = placeKey(place);
  const nameOf = (where: Place) => {
    const found = cellAt(ladder, where);
    return found ? `${found.rung.words}, ${found.rung.label}, ${where.mode}` : where.mode;
  };
  // The run that is driven, or was just driven, at this place.
  const driven = seen.live?.session_id === sessionId && samePlace(seen.live.place, place);
  const running = driven && isRunning(seen);
  const ready = view.cautions_read || ladder.logged > 0;
  const shut = cell.shut && happened !== at;
  const closed = closedBy(running, ready, shut);
  return (
    <div ref={main} className="grid flex-1 content-start lg:content-stretch lg:grid-cols-[456px_1fr]">
      <BenchState rung={rung} />
      <main className="flex min-w-0 flex-col lg:order-2">
        <div className="flex-1 px-4 py-[18px] sm:px-6">
          <RunHead
            key={`head ${at}`}
            rung={rung}
            cell={cell}
            sessionId={sessionId}
            revision={view.revisions[rung.key] ?? 0}
            setting={setting}
            setSetting={(on) => {
              setSetting(on);
              if (!on) goHome();
            }}
            onMoved={goTo}
          />
          {!setting && !running && <ToneStrip key={`tone ${at}`} rung={rung} cell={cell} />}
          {ladder.logged > 0 && !view.halt && !running && <RestStrip sessionId={sessionId} />}
          {view.halt && <HaltPanel sessionId={sessionId} view={view} halt={view.halt} />}
          {driven && <LivePanel seen={seen} />}
          {!running && !ready && <Cautions sessionId={sessionId} view={view} />}
          {!running && ready && shut && (
            <GatePanel key={`gate ${at}`} sessionId={sessionId} rung={rung} cell={cell} onHappened={() => setHappened(at)} />
          )}
          {closed === null && !cell.shut && <ArmedStrip sessionId={sessionId} rung={rung} cell={cell} armed={view.armed} />}
          {closed === null && !view.halt && <StartLive key={`live ${at}`} sessionId={sessionId} rung={rung} cell={cell} nameOf={nameOf} />}
          {closed === null && cell.mind.length > 0 && <Mind says={cell.mind} />}
          <RunAtHand
            key="at hand"
            sessionId={sessionId}
            rung={rung}
            cell={cell}
            closed={closed}
            view={view}
            nameOf={nameOf}
            onOpen={setOpened}
            go={{ to: goTo, onward }}
          />
        </div>
        <KeyBar undo={undoNext} />
      </main>
      <LadderView ladder={ladder} place={place} go={goTo} onAdd={() => setOpened({ kind: "load" })} />
      <BenchDialogs
        opened={opened}
        sessionId={sessionId}
        channels={channels}
        meters={view.meters}
        rung={rung}
        cell={cell}
        onClose={() => setOpened(null)}
        onAdded={(added) => {
          setOpened(null);
          goTo(added);
        }}
      />
    </div>
  );
}

/** What to mind at this very run. */
function Mind({ says }: { says: string[] }) {
  return (
    <ul aria-label="Mind" className="mt-3 grid gap-1 border-l-[3px] border-ochre pl-3 text-step">
      {says.map((line) => (
        <li key={line}>{line}</li>
      ))}
    </ul>
  );
}

/** The bench's state, at the right of the top of the page. */
function BenchState({ rung }: { rung: Schemas["LadderRung"] }) {
  const { rest_v: rest, charger_on: charger } = rung.set;
  const words = [
    rest == null ? "rest voltage not set" : `rest ${rest.toFixed(2)} V`,
    charger == null ? null : charger ? "charger on" : "charger off",
  ];
  useTopState(words.filter(Boolean).join(", "));
  return null;
}
