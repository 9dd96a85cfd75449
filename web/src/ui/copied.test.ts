import { describe, expect, it } from "vitest";
import { plainFigures } from "./copied";

describe("copied figures", () => {
  it("paste as figures", () => {
    expect(plainFigures("1\u202f068\u202fW")).toBe("1068 W");
    expect(plainFigures("1\u202f234\u202f567")).toBe("1234567");
    expect(plainFigures("\u22126\u202fdBFS")).toBe("-6 dBFS");
  });

  it("leave apart what is apart", () => {
    expect(plainFigures("1068 13.96 124.6")).toBe("1068 13.96 124.6");
    expect(plainFigures("4\u202f447")).toBe("4447");
    expect(plainFigures("2\u202f\u03a9, 14.4\u202fV")).toBe("2 \u03a9, 14.4 V");
    expect(plainFigures("7\u202f20 cycles")).toBe("7 20 cycles");
  });
});
