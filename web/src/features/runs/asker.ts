import type { Schemas } from "@/api/client";

type Typed = Schemas["TypedLine"];
type Understood = Schemas["UnderstoodLine"];

/** A line, and the run that it is typed for. */
export type Asked = Pick<Typed, "rung" | "mode" | "line">;

const NEXT_KEYS = "0123456789. ";
const AGAIN_MS = 1_000;
/** Time for the frame with the figures to be drawn: what is only asked ahead would take its processor. */
const DRAWN_MS = 20;

/** Lines that the next key may make of one: with one more character of a figure, or with one less. */
export function linesToCome(line: string): string[] {
  const shorter = line.slice(0, -1);
  return [...NEXT_KEYS].map((key) => line + key).concat(shorter.trim() === "" ? [] : [shorter]);
}

const isSame = (a: Asked | null, b: Asked | null) => a?.line === b?.line && a?.rung === b?.rung && a?.mode === b?.mode;
const isSamePlace = (a: Asked | null, b: Asked | null) => a?.rung === b?.rung && a?.mode === b?.mode;

/** Sends one thing at a time; of those that wait, the newest. */
class Lane {
  private waiting: Asked | null = null;
  private busy = false;

  constructor(private readonly send: (asked: Asked) => Promise<void>) {}

  put(asked: Asked) {
    this.waiting = asked;
    if (!this.busy) void this.run();
  }

  private async run() {
    this.busy = true;
    for (let next = this.waiting; next; next = this.waiting) {
      this.waiting = null;
      await this.send(next);
    }
    this.busy = false;
  }
}

/**
 * Asks what the newest line comes to, and, once that is known, what each line comes to that the next key may make of it: a figure is
 * then shown in the same frame as its digit. What was known ahead is asked about again all the same: readings may have come meanwhile.
 */
export class Asker {
  private wanted: Asked | null = null;
  private shown: Understood | null = null;
  private failure: string | null = null;
  private known = new Map<string, Understood>();
  private seq = 0;
  private newest = 0;
  private again: ReturnType<typeof setTimeout> | undefined;
  private behind: ReturnType<typeof setTimeout> | undefined;
  private readonly listeners = new Set<() => void>();
  private readonly alone = new Lane((asked) => this.ask(asked, []));
  private readonly withOthers = new Lane((asked) => this.ask(asked, linesToCome(asked.line)));

  constructor(private readonly question: (typed: Typed) => Promise<Schemas["Preview"]>) {}

  readonly subscribe = (listener: () => void) => {
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
      if (this.listeners.size === 0) this.forget();
    };
  };

  /** What a line comes to; while that is not known, what is shown of the one before. */
  answerTo = (line: string): Understood | null => this.known.get(line) ?? this.shown;

  /** Why the newest line could not be read. */
  trouble = (): string | null => this.failure;

  /** The line is this now; null: there is none to ask about. */
  want(asked: Asked | null) {
    if (isSame(asked, this.wanted)) return;
    // Figures of one run say nothing of another.
    if (!isSamePlace(asked, this.wanted)) {
      this.shown = null;
      this.known = new Map();
    }
    this.wanted = asked;
    this.forget();
    if (asked) this.send(asked);
  }

  /** Readings or settings may have changed: what was known of the line is asked about again. */
  refresh() {
    this.known = new Map();
    if (this.wanted) this.alone.put(this.wanted);
  }

  /** Asks no more by itself. */
  private forget() {
    clearTimeout(this.again);
    clearTimeout(this.behind);
  }

  private send(asked: Asked) {
    const known = this.known.get(asked.line);
    if (!known) return this.alone.put(asked);
    this.shown = known;
    this.askBehind(asked);
  }

  private askBehind(asked: Asked) {
    clearTimeout(this.behind);
    this.behind = setTimeout(() => this.withOthers.put(asked), DRAWN_MS);
  }

  private async ask(asked: Asked, also: string[]) {
    const seq = ++this.seq;
    try {
      const { seq: _, also: others, ...answer } = await this.question({ ...asked, seq, also });
      if (seq > this.newest && isSamePlace(asked, this.wanted)) this.learn(seq, [asked.line, ...also], [answer, ...others]);
      if (this.failure !== null) this.fail(null);
      if (also.length === 0 && isSame(asked, this.wanted)) this.askBehind(asked);
    } catch (reason) {
      if (!isSame(asked, this.wanted)) return;
      this.fail((reason as Error).message);
      // The program may only be away for a while.
      clearTimeout(this.again);
      if (this.listeners.size > 0) this.again = setTimeout(() => this.alone.put(asked), AGAIN_MS);
    }
  }

  private learn(seq: number, lines: string[], answers: Understood[]) {
    this.newest = seq;
    const before = this.known;
    this.known = new Map(lines.flatMap((line, i) => (answers[i] ? [[line, kept(before.get(line), answers[i])]] : [])));
    const now = this.wanted && this.known.get(this.wanted.line);
    if (now && now !== this.shown) {
      this.shown = now;
      this.tell();
    }
  }

  private fail(says: string | null) {
    this.failure = says;
    this.tell();
  }

  private tell() {
    for (const listener of this.listeners) listener();
  }
}

/** What was known, where it is the same: nothing is drawn anew for it. */
const kept = (before: Understood | undefined, now: Understood) => (before && JSON.stringify(before) === JSON.stringify(now) ? before : now);
