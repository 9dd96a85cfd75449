import { expect, it } from "vitest";
import { buttonClass } from "./button";
import { cn } from "./cn";

it("keeps our own sizes and weights beside a colour", () => {
  expect(cn("text-step", "text-ink2")).toBe("text-step text-ink2");
  expect(cn("font-strong text-figure", "text-stop")).toBe("font-strong text-figure text-stop");
});

it("lets the later of two that contradict each other stand", () => {
  expect(cn("text-note", "text-step")).toBe("text-step");
  expect(cn("font-firm", "font-semibold")).toBe("font-semibold");
  expect(cn("px-3 py-2", "py-1", false)).toBe("px-3 py-1");
});

it("makes a compact button compact", () => {
  expect(buttonClass("plain", "compact").split(" ")).toEqual(expect.arrayContaining(["py-1", "text-sm"]));
  expect(buttonClass("plain", "compact")).not.toContain("py-2");
  expect(buttonClass("main", "usual", "py-1.5")).not.toContain("py-2");
});
