import { pause } from "@/ui/pause";

/** What became of a write whose answer never came. */
export type Fate =
  | { kind: "done"; answer: unknown }
  /** Not done, and it will not be: the program has given its key up. */
  | { kind: "not-done" }
  /** The program does not answer. */
  | { kind: "unknown" };

/** Questions that are posted because they are long, and what is done at once at the bench: they save nothing. */
const SAVES_NOTHING =
  /\/(previews|spec-tables|sense-checks|loads|stretches|scales|trials|stand-in|upkeep|upkeep\/copies|live\/(?:stop|cut))$|\/writes\//;
/** Saved piece by piece, or driven: the records do not know it by its key. */
const WITHOUT_KEY = /\/imports$|\/traces$|\/live$/;

/** What there is to ask when a request of a path gets no answer. */
export const kindOf = (path: string): "question" | "keyed" | "without-key" =>
  SAVES_NOTHING.test(path) ? "question" : WITHOUT_KEY.test(path) ? "without-key" : "keyed";

/** Asks once what became of a write, by its idempotency key. */
export async function askFate(key: string): Promise<Fate> {
  try {
    const response = await fetch(`/api/writes/${key}`, { method: "DELETE" });
    if (!response.ok) return { kind: "unknown" };
    const { done, answer } = (await response.json()) as { done: boolean; answer: unknown };
    return done ? { kind: "done", answer } : { kind: "not-done" };
  } catch {
    return { kind: "unknown" };
  }
}

/** Asks again and again, ever more slowly, until the program answers or the time is up. */
export async function inquire(key: string, withinMs: number): Promise<Fate> {
  const until = performance.now() + withinMs;
  for (let wait = 250; ; wait = Math.min(2 * wait, 4_000)) {
    const fate = await askFate(key);
    if (fate.kind !== "unknown" || performance.now() + wait > until) return fate;
    await pause(wait);
  }
}
