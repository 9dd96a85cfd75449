import { expect, it } from "vitest";
import { addressOf } from "./looks";

it("names a card with its looks", () => {
  expect(addressOf("s1", "cards/verdict.png", { shape: "9x16", theme: "clear", lines: 2160 })).toBe(
    "/api/sessions/s1/cards/verdict.png?shape=9x16&theme=clear&lines=2160",
  );
});
