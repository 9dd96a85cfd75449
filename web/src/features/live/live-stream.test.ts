import { afterEach, beforeEach, expect, it, vi } from "vitest";

type Listener = (event: { data: string }) => void;

/** The event stream of the program, as the test lets it speak. */
class Stream {
  static last: Stream;
  onopen: (() => void) | null = null;
  onerror: (() => void) | null = null;
  private readonly listeners = new Map<string, Listener>();

  constructor() {
    Stream.last = this;
  }

  addEventListener(name: string, listener: Listener) {
    this.listeners.set(name, listener);
  }

  says(name: string, data: unknown = {}) {
    this.listeners.get(name)?.({ data: JSON.stringify(data) });
  }

  close = vi.fn();
}

const round = (t_ms: number) => ({ t_ms, power_w: [1] });

async function started() {
  vi.resetModules();
  vi.doMock("./lead", () => ({ lead: (_name: string, read: () => void) => read() }));
  const stream = await import("./live-stream");
  stream.subscribe(() => undefined);
  return stream;
}

beforeEach(() => {
  vi.useFakeTimers();
  vi.stubGlobal("EventSource", Stream);
});

afterEach(() => {
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

it("is heard while it beats, and not heard after three and a half seconds of silence", async () => {
  const { current } = await started();
  expect(current().open).toBe(false);
  Stream.last.onopen?.();
  expect(current().open).toBe(true);
  for (let second = 0; second < 10; second++) {
    vi.advanceTimersByTime(1_000);
    Stream.last.says("beat");
  }
  expect(current().open).toBe(true);
  vi.advanceTimersByTime(3_600);
  expect(current().open).toBe(false);
  Stream.last.says("beat");
  expect(current().open).toBe(true);
});

it("keeps the rounds of one run, and begins again with the next", async () => {
  const { current } = await started();
  Stream.last.says("round", { seq: 1, n: 0, round: round(0) });
  Stream.last.says("round", { seq: 1, n: 1, round: round(50) });
  expect(current().rounds).toHaveLength(2);
  Stream.last.says("round", { seq: 2, n: 0, round: round(0) });
  expect([current().rounds.length, current().seq]).toEqual([1, 2]);
});

it("draws no stretch twice when a stream that broke says it again", async () => {
  const { current } = await started();
  for (const n of [0, 1, 2, 1, 2, 3]) Stream.last.says("round", { seq: 1, n, round: round(50 * n) });
  expect(current().rounds.map(({ t_ms }) => t_ms)).toEqual([0, 50, 100, 150]);
});

it("passes changes of the records on", async () => {
  const { onChange } = await started();
  const heard: string[][] = [];
  const end = onChange(({ amplifiers }) => heard.push(amplifiers));
  Stream.last.says("change", { tab: "a", amplifiers: ["x"] });
  end();
  Stream.last.says("change", { tab: "a", amplifiers: ["y"] });
  expect(heard).toEqual([["x"]]);
});
