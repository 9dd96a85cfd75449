import { beforeEach, describe, expect, it, vi } from "vitest";
import * as line from "./line-state";
import { lineStore } from "./line-store";

const PLACE = { rung: "mono@4@40", mode: "certified" } as const;

const kept = (session: string) => JSON.parse(sessionStorage.getItem(`pukka-line-${session}`) ?? "null") as line.LineState | null;

describe("the line of a session in the tab's own storage", () => {
  beforeEach(() => {
    sessionStorage.clear();
    vi.useFakeTimers();
  });

  it("is kept within a moment of a key, once for several", () => {
    const store = lineStore("typed");
    const writes = vi.spyOn(Storage.prototype, "setItem");
    for (const text of ["1", "11", "110"]) store.change((was) => line.typed(was, PLACE, text));
    expect(writes).not.toHaveBeenCalled();
    vi.advanceTimersByTime(100);
    expect(writes).toHaveBeenCalledTimes(1);
    expect(line.shownLine(kept("typed") ?? line.EMPTY, PLACE)).toBe("110");
    writes.mockRestore();
  });

  it("is kept when the page is left before that moment", () => {
    const store = lineStore("left");
    store.change((was) => line.typed(was, PLACE, "110 14.4"));
    expect(kept("left")).toBeNull();
    dispatchEvent(new Event("pagehide"));
    expect(line.shownLine(kept("left") ?? line.EMPTY, PLACE)).toBe("110 14.4");
    sessionStorage.clear();
    dispatchEvent(new Event("pagehide"));
    expect(kept("left"), "what was cleared by somebody is not written once more").toBeNull();
  });

  it("is kept at once when it is sent: a reload finds out what became of it", () => {
    const store = lineStore("sent");
    store.change((was) => line.sending(was, { place: PLACE, line: "110", key: "k1", unknown: false }));
    expect(kept("sent")?.sent?.key).toBe("k1");
  });
});
