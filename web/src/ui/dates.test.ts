import { describe, expect, it } from "vitest";
import { day, moment, second } from "./dates";

describe("dates", () => {
  it("are written one way, by the clock on the wall", () => {
    const at = new Date(2026, 2, 5, 7, 4, 9);
    expect([day(at), moment(at), second(at)]).toEqual(["2026-03-05", "2026-03-05 07:04", "2026-03-05 07:04:09"]);
    expect(day(at.toISOString())).toBe("2026-03-05");
  });
});
