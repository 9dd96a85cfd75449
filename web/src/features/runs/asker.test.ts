import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Schemas } from "@/api/client";
import { Asker, linesToCome } from "./asker";

type Typed = Schemas["TypedLine"];
type Preview = Schemas["Preview"];
type Understood = Schemas["UnderstoodLine"];

const at = (line: string, rung = "mono@4@40") => ({ rung, mode: "certified" as const, line });
const answered = (line: string, says = ""): Understood => ({
  segments: [{ text: line, kind: "reading", says, choices: [] }],
  about: "run",
  not_yet: null,
  figures: null,
  checks: [],
});
const textOf = (answer: Understood | null) => answer?.segments[0]?.text ?? null;
const saysOf = (answer: Understood | null) => answer?.segments[0]?.says ?? null;

/** By then the frame with the figures is drawn. */
const DRAWN_MS = 20;

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

/** An asker whose questions are answered by hand, in any order. */
function bench() {
  const asked: { typed: Typed; answer: (says?: string) => Promise<void>; fail: () => Promise<void> }[] = [];
  const asker = new Asker(
    (typed) =>
      new Promise<Preview>((resolve, reject) => {
        const settle = async (settled: () => void) => {
          settled();
          await vi.advanceTimersByTimeAsync(DRAWN_MS);
        };
        const answer = (says = "") =>
          settle(() =>
            resolve({ seq: typed.seq, ...answered(typed.line, says), also: (typed.also ?? []).map((line) => answered(line, says)) }),
          );
        asked.push({ typed, answer, fail: () => settle(() => reject(new Error("no answer"))) });
      }),
  );
  const told = vi.fn();
  asker.subscribe(told);
  return { asker, asked, told };
}

describe("an asker", () => {
  it("asks about the line alone, then about what the next key may make of it", async () => {
    const { asker, asked, told } = bench();
    asker.want(at("110 1"));
    expect(asked.map(({ typed }) => typed.also)).toEqual([[]]);
    await asked[0]?.answer();
    expect(textOf(asker.answerTo("110 1"))).toBe("110 1");
    expect(asked[1]?.typed.also).toEqual(linesToCome("110 1"));
    await asked[1]?.answer();
    expect(textOf(asker.answerTo("110 14"))).toBe("110 14");
    expect(told).toHaveBeenCalledTimes(1);
  });

  it("asks about a line that was known ahead all the same, and shows what came meanwhile", async () => {
    const { asker, asked, told } = bench();
    asker.want(at("110"));
    await asked[0]?.answer("one run");
    await asked[1]?.answer("one run");
    asker.want(at("1104"));
    expect(saysOf(asker.answerTo("1104"))).toBe("one run");
    await vi.advanceTimersByTimeAsync(DRAWN_MS);
    expect(asked[2]?.typed.line).toBe("1104");
    await asked[2]?.answer("two runs");
    expect(saysOf(asker.answerTo("1104"))).toBe("two runs");
    expect(told).toHaveBeenCalledTimes(2);
  });

  it("asks again about the line, and forgets what was known ahead, once what it stands among has changed", async () => {
    const { asker, asked } = bench();
    asker.want(at("110"));
    await asked[0]?.answer("at rest 14.6 V");
    await asked[1]?.answer("at rest 14.6 V");
    asker.refresh();
    expect(saysOf(asker.answerTo("110"))).toBe("at rest 14.6 V");
    expect(textOf(asker.answerTo("1104"))).toBe("110");
    await asked[2]?.answer("at rest 14.2 V");
    expect(saysOf(asker.answerTo("110"))).toBe("at rest 14.2 V");
  });

  it("tells nobody where the answer is the one that was known", async () => {
    const { asker, asked, told } = bench();
    asker.want(at("110"));
    await asked[0]?.answer();
    await asked[1]?.answer();
    asker.want(at("1104"));
    const known = asker.answerTo("1104");
    await vi.advanceTimersByTimeAsync(DRAWN_MS);
    await asked[2]?.answer();
    expect(asker.answerTo("1104")).toBe(known);
    expect(told).toHaveBeenCalledTimes(1);
  });

  it("drops an answer that comes after a newer one", async () => {
    const { asker, asked } = bench();
    asker.want(at("110"));
    await asked[0]?.answer();
    asker.want(at("7"));
    await asked[2]?.answer("new");
    await asked[1]?.answer("old");
    expect(saysOf(asker.answerTo("7"))).toBe("new");
    expect(saysOf(asker.answerTo("110"))).toBe("new");
  });

  it("asks ahead only of a line that stood until its figures were drawn", async () => {
    const { asker, asked } = bench();
    asker.want(at("110"));
    await asked[0]?.answer();
    await asked[1]?.answer();
    asker.want(at("1104"));
    await vi.advanceTimersByTimeAsync(DRAWN_MS - 1);
    asker.want(at("11045"));
    await vi.advanceTimersByTimeAsync(DRAWN_MS);
    expect(asked.slice(2).map(({ typed }) => [typed.line, typed.also?.length])).toEqual([["11045", 0]]);
  });

  it("asks about the newest of the lines that waited", async () => {
    const { asker, asked } = bench();
    for (const line of ["1", "12", "123"]) asker.want(at(line));
    await asked[0]?.answer();
    expect(asked.map(({ typed }) => typed.line)).toEqual(["1", "123"]);
  });

  it("shows nothing of one run while another is asked about", async () => {
    const { asker, asked } = bench();
    asker.want(at("110"));
    await asked[0]?.answer();
    await asked[1]?.answer();
    asker.want(at("110", "mono@2@40"));
    expect(asker.answerTo("110")).toBeNull();
    asker.want(null);
    expect(asker.answerTo("1104")).toBeNull();
  });

  it("drops the answer for a run that was left", async () => {
    const { asker, asked, told } = bench();
    asker.want(at("110"));
    asker.want(at("110", "mono@2@40"));
    await asked[0]?.answer("of the run before");
    expect(asker.answerTo("110")).toBeNull();
    expect(told).not.toHaveBeenCalled();
  });

  it("says that there is no answer, asks again by itself, and says no more once there is one", async () => {
    const { asker, asked } = bench();
    asker.want(at("110"));
    await asked[0]?.fail();
    expect(asker.trouble()).toBe("no answer");
    await vi.advanceTimersByTimeAsync(1_000);
    await asked[1]?.answer();
    expect(asker.trouble()).toBeNull();
    expect(textOf(asker.answerTo("110"))).toBe("110");
  });
});

describe("the lines to come", () => {
  it("are the line with a character of a figure more, and with one less", () => {
    expect(linesToCome("14")).toEqual([..."0123456789. "].map((key) => `14${key}`).concat("1"));
    expect(linesToCome("1")).toHaveLength(12);
  });
});
