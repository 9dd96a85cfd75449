import { lazy, Suspense, useState } from "react";
import type { Schemas } from "@/api/client";
import { LivePlots } from "@/features/live/live-panel";
import { isRunning, useLive } from "@/features/live/use-live";
import { Margin } from "@/ui/notice";
import { SideColumn } from "@/ui/side-column";
import { useTopState } from "@/ui/top-state";
import { goHome, useKeys } from "@/ui/use-keys";
import { useUndo } from "@/ui/use-undo";
import { useClap } from "../record/use-clap";
import { BeforeTone } from "./before-tone";
import { LadderView } from "./ladder-view";
import { lineStore } from "./line-store";
import { cellAt, lastLogged, moved, nextFree, placeKey, samePlace, type Place } from "../ladder/place";
import type { Opened } from "./opened";
import { RunAtHand } from "./run-at-hand";
import { StepHead } from "./step-head";
import { useMetre } from "./use-metre";
import { usePlace } from "./use-place";
import { useSteadyScroll } from "./use-steady-scroll";

interface Props {
  amplifierId: string;
  sessionId: string;
  view: Schemas["LadderView"];
  channels: number;
}

// What is only opened at times is fetched then: the bench itself is there sooner.
const BenchDialogs = lazy(async () => ({ default: (await import("./bench-dialogs")).BenchDialogs }));
const Cautions = lazy(async () => ({ default: (await import("./cautions")).Cautions }));
const HaltPanel = lazy(async () => ({ default: (await import("./halt-panel")).HaltPanel }));
const GatePanel = lazy(async () => ({ default: (await import("./gate-panel")).GatePanel }));

/** Why nothing can be logged at the run at hand; null when it can. */
const closedBy = (running: boolean, ready: boolean, shut: boolean) =>
  running
    ? "A run is under way: typing is kept, not logged."
    : !ready
      ? "Tick the cautions first: typing is kept."
      : shut
        ? "Gated: typing is kept, not logged."
        : null;

export function Bench({ amplifierId, sessionId, view, channels }: Props) {
  const { ladder } = view;
  const [place, step] = usePlace(ladder);
  const [setting, setSetting] = useState(false);
  const [opened, setOpened] = useState<Opened | null>(null);
  const [happened, setHappened] = useState<string | null>(null);
  const { undo, next: undoNext } = useUndo(amplifierId);
  const [metre, toggleMetre] = useMetre();
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
  const clap = useClap(sessionId);
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
    b: toggleMetre,
    l: () => setOpened({ kind: "load" }),
    x: () => setOpened({ kind: "incident" }),
    e: openRun("correct"),
    h: openRun("history"),
    m: () => view.meters.length > 0 && setOpened({ kind: "meter" }),
    k: clap,
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
    <div
      ref={main}
      data-metre={metre || undefined}
      className={`grid flex-1 content-start lg:content-stretch ${metre ? "" : "lg:grid-cols-[var(--side)_1fr]"}`}
    >
      <BenchState rung={rung} />
      <main className="min-w-0 px-4 pt-2 pb-6 sm:px-6 sm:pt-3.5 lg:order-2 sm:low:pt-2">
        <StepHead sessionId={sessionId} rung={rung} cell={cell} metre={metre} />
        <RunAtHand
          key="at hand"
          at={{ amplifierId, sessionId, view, rung, cell }}
          closed={closed}
          nameOf={nameOf}
          onOpen={setOpened}
          go={{ to: goTo, onward }}
          live={running ? seen : null}
          undo={{ next: undoNext, take: () => void undo() }}
          metre={{ on: metre, toggle: toggleMetre }}
        >
          <Margin className={metre ? "mt-3" : "mt-3 lg:hidden"} />
          <Suspense>
            {view.halt && <HaltPanel sessionId={sessionId} view={view} halt={view.halt} />}
            {driven && <LivePlots seen={seen} />}
            {!running && !ready && <Cautions sessionId={sessionId} view={view} />}
            {!running && ready && shut && !view.halt?.last && (
              <GatePanel key={`gate ${at}`} sessionId={sessionId} rung={rung} cell={cell} onHappened={() => setHappened(at)} />
            )}
          </Suspense>
        </RunAtHand>
      </main>
      {/* Out of sight with big figures, and not gone: its keys and its sounds go on. What is being set comes into sight. */}
      <SideColumn
        label="Ladder and bench"
        className={!metre ? "gap-y-2 pt-3.5 lg:pr-4" : setting ? "gap-y-2 pt-3.5 lg:static lg:order-3 lg:h-auto lg:border-r-0" : "hidden"}
      >
        <LadderView ladder={ladder} place={place} go={goTo} onAdd={() => setOpened({ kind: "load" })} />
        <BeforeTone
          sessionId={sessionId}
          view={view}
          rung={rung}
          cell={cell}
          closed={closed !== null}
          setting={[
            setting,
            (on) => {
              setSetting(on);
              if (!on) goHome();
            },
          ]}
          onMoved={(key) => goTo({ rung: key, mode: cell.mode })}
          nameOf={nameOf}
        />
        <Margin className="mt-auto hidden lg:block" />
      </SideColumn>
      {opened && (
        <Suspense>
          <BenchDialogs
            opened={opened}
            amplifierId={amplifierId}
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
        </Suspense>
      )}
    </div>
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
