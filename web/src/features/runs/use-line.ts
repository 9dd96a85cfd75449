import { useEffect, useLayoutEffect, useRef, useSyncExternalStore } from "react";
import { takeLines } from "@/ui/late-keys";
import * as line from "./line-state";
import { DOUBLE_MS, lineStore, type Logged } from "./line-store";
import type { Place } from "../ladder/place";

/** A press of Enter: when, and whether the key is only held down. */
export interface Press {
  timeStamp: number;
  repeat: boolean;
}

interface Asked {
  sessionId: string;
  place: Place;
  /** Why nothing can be logged here now; null when it can. */
  closed: string | null;
  /** The run was made already, past a gate. */
  happened: boolean;
  onLogged: (done: Logged, from: Place) => void;
  /** Enter on an empty line with nothing on its way. */
  onBlank: () => void;
}

/** The line of the run at hand, and what Enter does with it. */
export function useLine({ sessionId, place, closed, happened, onLogged, onBlank }: Asked) {
  const store = lineStore(sessionId);
  const state = useSyncExternalStore(store.subscribe, store.current);
  useEffect(() => {
    if (closed === null) store.change(line.opened);
  }, [store, closed]);
  const heir = useRef(onLogged);
  useLayoutEffect(() => {
    heir.current = onLogged;
  });
  useEffect(() => store.onLogged((done, from) => heir.current(done, from)), [store]);
  const here = useRef(place);
  useLayoutEffect(() => {
    here.current = place;
  });
  useLayoutEffect(() => {
    const lines = takeLines();
    if (lines.every((text) => text.trim() === "")) return;
    store.change((was) => line.found(was, here.current, lines));
    const says = "Typed before the page was ready: check it, then press Enter to log it.";
    store.change((was) => line.told(was, { line: line.shownLine(was, here.current), says, doubts: [], at: performance.now() }));
  }, [store]);
  /** Returns whether the press was the line's own. Presses may come faster than the page is drawn: each looks at what is. */
  const enter = ({ timeStamp, repeat }: Press): boolean => {
    const now = store.current();
    const text = line.shownLine(now, place);
    const { why } = now;
    if (text.trim() === "") return enterBlank(timeStamp, repeat);
    if (line.isAhead(now)) store.change(line.queued);
    else if (closed !== null) store.change((was) => line.told(was, { line: text, says: closed, doubts: [], at: timeStamp, shut: true }));
    else if (why && why.doubts.length > 0 && why.line === text) {
      if (!repeat && timeStamp - why.at >= DOUBLE_MS) void store.send(place, text, happened, true);
    } else if (!repeat) void store.send(place, text, happened, false);
    return true;
  };
  const enterBlank = (timeStamp: number, repeat: boolean): boolean => {
    const { sent, refused, why } = store.current();
    // The second press of a double one says nothing of its own.
    const last = Math.max(store.loggedAt, why?.at ?? -Infinity);
    if (sent || repeat || timeStamp - last < DOUBLE_MS) return true;
    if (refused) {
      if (timeStamp - refused.at >= DOUBLE_MS) store.change(line.takenBack);
      return true;
    }
    if (closed !== null) return false;
    onBlank();
    return true;
  };
  const text = line.shownLine(state, place);
  return {
    state,
    text,
    enter,
    change: (next: string) => store.change((was) => line.typed(was, place, next)),
    tell: (says: string, doubts: string[] = []) =>
      store.change((was) => line.told(was, { line: text, says, doubts, at: performance.now() })),
    takeBack: () => store.change(line.takenBack),
    drop: (index: number) => store.change((was) => line.dropped(was, index)),
  };
}
