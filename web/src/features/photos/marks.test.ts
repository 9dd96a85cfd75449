import { describe, expect, it } from "vitest";
import { drawn, freeLabel, inTheMiddle, moved, stepOf } from "./marks";

describe("marks on a photo", () => {
  it("stay on the photo however far they are dragged", () => {
    expect(drawn("arrow", { x: -0.2, y: 0.5 }, { x: 1.4, y: 0.25 })).toEqual({ shape: "arrow", x: 0, y: 0.5, to_x: 1, to_y: 0.25 });
    expect(drawn("label", { x: 0, y: 0 }, { x: 0.3, y: 0.4 })).toEqual({ shape: "label", x: 0.3, y: 0.4, label: "A" });
  });

  it("move as a whole, or by their far end", () => {
    const ring = inTheMiddle("ring");
    expect(moved(ring, { x: 0.1, y: 0 }, false)).toMatchObject({ x: 0.6, to_x: 0.7 });
    expect(moved(ring, { x: 0.1, y: 0 }, true)).toMatchObject({ x: 0.5, to_x: 0.7 });
    expect(moved(inTheMiddle("label"), { x: 0, y: 0.9 }, false)).toEqual({ shape: "label", x: 0.5, y: 1, label: "A" });
  });

  it("move by the arrow keys and no others", () => {
    expect(stepOf("ArrowUp")).toEqual({ x: 0, y: -0.01 });
    expect(stepOf("a")).toBeNull();
  });

  it("get the first free letter", () => {
    const label = (text: string) => ({ ...inTheMiddle("label"), label: text });
    expect(freeLabel([])).toBe("A");
    expect(freeLabel([label("A"), label("C")])).toBe("B");
    expect(freeLabel(Array.from({ length: 26 }, (_, n) => label(String.fromCharCode(65 + n))))).toBe("A2");
  });
});
