import { useEffect, useRef, useState } from "react";
import { flushSync } from "react-dom";
import { askAboutLine, type Schemas } from "@/api/client";
import type { Mode } from "../ladder/place";

type Preview = Schemas["Preview"];
type Typed = Schemas["TypedLine"];

const AGAIN_MS = 1_000;

/**
 * What the line comes to as it is typed; null: it is typed for a run that is not at hand yet. One question at a time is on its way; the
 * newest line is asked about next.
 */
export function usePreview(sessionId: string, rung: string, mode: Mode, line: string | null) {
  const [preview, setPreview] = useState<Preview | null>(null);
  const [error, setError] = useState<string | null>(null);
  const asker = useRef<Asker | null>(null);
  useEffect(() => {
    // Drawn with the next frame, not with the one after it.
    const made = new Asker(sessionId, (answer) => flushSync(() => setPreview(answer)), setError);
    asker.current = made;
    return () => made.end();
  }, [sessionId]);
  const empty = line === null || line.trim() === "";
  const shown = useRef<Omit<Typed, "seq"> | null>(null);
  useEffect(() => {
    shown.current = empty ? null : { rung, mode, line };
    asker.current?.want(shown.current);
  }, [sessionId, rung, mode, line, empty]);
  /** Asks before the page is drawn with the line: the answer is on its way meanwhile. A line that did not come is not asked about. */
  const askAhead = (next: string) => {
    if (line === null || next.trim() === "") return;
    asker.current?.want({ rung, mode, line: next });
    setTimeout(() => asker.current?.want(shown.current));
  };
  return { preview: empty ? null : preview, error: empty ? null : error, askAhead };
}

const isSame = (a: Omit<Typed, "seq"> | null, b: Omit<Typed, "seq"> | null) =>
  a?.line === b?.line && a?.rung === b?.rung && a?.mode === b?.mode;

/** Asks about the newest line, and drops the answer to an older one. */
class Asker {
  private seq = 0;
  private wanted: Omit<Typed, "seq"> | null = null;
  private asked = 0;
  private onItsWay = false;
  private ended = false;
  private again: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly sessionId: string,
    private readonly show: (preview: Preview) => void,
    private readonly fail: (says: string | null) => void,
  ) {}

  want(line: Omit<Typed, "seq"> | null) {
    if (isSame(line, this.wanted)) return;
    this.seq += 1;
    this.wanted = line;
    void this.ask();
  }

  end() {
    this.ended = true;
    clearTimeout(this.again);
  }

  private async ask() {
    if (this.onItsWay || this.ended || this.wanted === null || this.asked === this.seq) return;
    clearTimeout(this.again);
    const seq = (this.asked = this.seq);
    this.onItsWay = true;
    try {
      const body: Typed = { ...this.wanted, seq };
      const answer = await askAboutLine(this.sessionId, body);
      if (seq === this.seq && !this.ended) {
        this.show(answer);
        this.fail(null);
      }
    } catch (reason) {
      if (seq === this.seq && !this.ended) {
        this.fail((reason as Error).message);
        // The program may only be away for a while.
        this.asked = 0;
        this.again = setTimeout(() => void this.ask(), AGAIN_MS);
      }
    } finally {
      this.onItsWay = false;
    }
    if (this.asked !== 0) void this.ask();
  }
}
