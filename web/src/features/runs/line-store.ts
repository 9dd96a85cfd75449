import { api, ASKS_ITSELF, data, Refusal, type Schemas } from "@/api/client";
import { inquire } from "@/api/inquiry";
import { newId } from "@/ui/ids";
import type { Place } from "../ladder/place";
import * as line from "./line-state";
import type { LineState } from "./line-state";

export type Logged = Schemas["LoggedRun"];

/** Who is told when a line was logged. */
export type OnLogged = (done: Logged, from: Place) => void;

/** Between two Enters that are one by a slip of the finger. */
export const DOUBLE_MS = 400;
/** A tab's storage is slow beside a key; leaving the page keeps the line at once. */
const KEPT_WITHIN_MS = 100;
/** Long enough for a program that is started again by hand. */
const ASKED_FOR_MS = 120_000;

/**
 * The line of a session: it lives outside the page, so that an answer finds it whatever is shown by then, and in the tab's own
 * storage, so that a reload loses nothing.
 */
export class LineStore {
  private state: LineState;
  private readonly listeners = new Set<() => void>();
  private readonly heirs = new Set<OnLogged>();
  /** When the last line was logged, by the clock of key presses. */
  loggedAt = -Infinity;
  /** Where the last run was logged: known before the ladder is read again. */
  lastPlace: Place | null = null;

  constructor(private readonly sessionId: string) {
    this.state = this.read();
    addEventListener("pagehide", () => this.soon !== undefined && this.keep());
    // The page was loaded again while a line was on its way.
    if (this.state.sent) void this.findOut();
  }

  current = () => this.state;

  subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => void this.listeners.delete(listener);
  };

  /** Tells `heir` of every line that is logged from here on. */
  onLogged(heir: OnLogged) {
    this.heirs.add(heir);
    return () => void this.heirs.delete(heir);
  }

  change(next: (state: LineState) => LineState) {
    const before = this.state;
    this.state = next(before);
    // What was sent is kept before anything else happens; a key waits until the figures that it asks for are drawn.
    if (this.state.sent !== before.sent || this.state.waiting !== before.waiting) this.keep();
    else this.soon ??= setTimeout(() => this.keep(), KEPT_WITHIN_MS);
    this.listeners.forEach((listener) => listener());
  }

  private soon: ReturnType<typeof setTimeout> | undefined;

  private keep() {
    clearTimeout(this.soon);
    this.soon = undefined;
    try {
      sessionStorage.setItem(this.name, JSON.stringify(this.state));
    } catch {
      // A full or forbidden storage costs the line only on a reload.
    }
  }

  /** Sends a line to be logged at a place. `sure`: in spite of doubts. */
  async send(place: Place, text: string, happened: boolean, sure: boolean) {
    const sent = { place, line: text, key: newId(), unknown: false };
    this.change((state) => line.sending(state, sent));
    await this.post(sent, happened, sure);
  }

  private async post({ place, line: text, key }: line.Sent, happened: boolean, sure: boolean) {
    try {
      const done = await data(
        api.POST("/api/sessions/{id}/runs", {
          params: { path: { id: this.sessionId } },
          headers: { "Idempotency-Key": key, [ASKS_ITSELF]: "1" },
          body: { ...place, line: text, happened, unless_doubted: !sure },
        }),
      );
      this.take(done, place);
    } catch (error) {
      if (error instanceof Refusal && error.status !== 0) this.refuse(error);
      else await this.findOut();
    }
  }

  /** Asks what became of the line on its way, until somebody knows. */
  private async findOut(): Promise<void> {
    this.change(line.lost);
    const { sent } = this.state;
    if (!sent) return;
    const fate = await inquire(sent.key, ASKED_FOR_MS);
    if (this.state.sent?.key !== sent.key) return;
    if (fate.kind === "unknown") return this.findOut();
    if (fate.kind === "done") return this.take(fate.answer as Logged, sent.place);
    this.change((state) => line.refused(state, "The connection broke before it was logged; nothing was saved.", [], performance.now()));
  }

  private take(done: Logged, from: Place) {
    this.loggedAt = performance.now();
    if (done.about === "run") this.lastPlace = from;
    const place = done.about === "run" ? (done.next ?? from) : from;
    const [text] = this.state.waiting;
    if (text !== undefined && !this.held) {
      // It was ended with Enter: it is logged as well. The server says no where its run is gated.
      const sent = { place, line: text, key: newId(), unknown: false };
      this.change((state) => line.loggedAndOn(state, sent));
      void this.post(sent, false, false);
    } else {
      this.change((state) => line.logged(state, place));
      this.held = this.state.waiting.length > 0;
    }
    this.heirs.forEach((heir) => heir(done, from));
  }

  /** Once one was refused, those behind it are shown one by one, and wait for an Enter of their own. */
  private held = false;

  private refuse(refusal: Refusal) {
    this.held = true;
    this.change((state) => line.refused(state, refusal.message, doubtsOf(refusal), performance.now()));
  }

  private get name() {
    return `pukka-line-${this.sessionId}`;
  }

  private read(): LineState {
    try {
      const kept = JSON.parse(sessionStorage.getItem(this.name) ?? "null") as Partial<LineState> | null;
      return { ...line.EMPTY, ...kept, why: null };
    } catch {
      return line.EMPTY;
    }
  }
}

/** The doubts of a refusal that a second Enter passes over. */
export const doubtsOf = (error: Error) =>
  error instanceof Refusal && error.code === "doubted" ? error.problems.map((problem) => problem.says) : [];

const stores = new Map<string, LineStore>();

/** The line of a session, the same one as long as the page is not reloaded. */
export function lineStore(sessionId: string): LineStore {
  const known = stores.get(sessionId);
  if (known) return known;
  const made = new LineStore(sessionId);
  stores.set(sessionId, made);
  return made;
}
