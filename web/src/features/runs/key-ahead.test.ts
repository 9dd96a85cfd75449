import { describe, expect, it } from "vitest";
import { lineAhead } from "./key-ahead";

const plain = { ctrlKey: false, altKey: false, metaKey: false };
const field = (value: string, start = value.length, end = start) => ({ value, selectionStart: start, selectionEnd: end, maxLength: 600 });

describe("the line before its key", () => {
  it("is known where a figure goes behind what is there", () => {
    expect(lineAhead({ key: "4", ...plain }, field("110 1"))).toBe("110 14");
    expect(lineAhead({ key: ".", ...plain }, field("110 14"))).toBe("110 14.");
    expect(lineAhead({ key: " ", ...plain }, field("110"))).toBe("110 ");
  });

  it("is not known of shortcuts, letters, and keys that replace something or go elsewhere", () => {
    expect(lineAhead({ key: "4", ...plain }, field(""))).toBeNull();
    expect(lineAhead({ key: "+", ...plain }, field("110"))).toBeNull();
    expect(lineAhead({ key: "v", ...plain }, field("110"))).toBeNull();
    expect(lineAhead({ key: "Enter", ...plain }, field("110"))).toBeNull();
    expect(lineAhead({ key: "4", ...plain, ctrlKey: true }, field("110"))).toBeNull();
    expect(lineAhead({ key: "4", ...plain }, field("110", 1))).toBeNull();
    expect(lineAhead({ key: "4", ...plain }, field("110", 0, 3))).toBeNull();
    expect(lineAhead({ key: "4", ...plain }, { ...field("110"), maxLength: 3 })).toBeNull();
  });
});
