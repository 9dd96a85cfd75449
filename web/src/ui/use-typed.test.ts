// @vitest-environment happy-dom
import { act, createElement } from "react";
import { createRoot } from "react-dom/client";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { useTyped } from "./use-typed";

Object.assign(globalThis, { IS_REACT_ACT_ENVIRONMENT: true });

/** A field whose text is told to an address that changes when the test lets it. */
function field(first: string) {
  const told: string[] = [];
  let hook = {} as ReturnType<typeof useTyped>;
  const tell = (text: string) => void told.push(text);
  function Field({ value }: { value: string }) {
    hook = useTyped(value, tell);
    return null;
  }
  const root = createRoot(document.createElement("div"));
  const address = (value: string) => act(() => root.render(createElement(Field, { value })));
  address(first);
  return {
    told,
    address,
    type: (text: string) => act(() => hook.setTyped(text)),
    enter: () => act(() => hook.tellNow()),
    wait: () => act(() => vi.advanceTimersByTime(100)),
    typed: () => hook.typed,
  };
}

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

it("keeps what is typed while the address is still on its way", () => {
  const find = field("nobody");
  find.type("");
  find.wait();
  // The page is drawn again before the address has changed.
  find.address("nobody");
  find.type("fo");
  find.address("");
  expect(find.typed()).toBe("fo");
  find.wait();
  expect(find.told).toEqual(["", "fo"]);
});

it("takes each of several that it told for its own, also where one is left out", () => {
  const find = field("");
  for (const text of ["a", "ab", "abc"]) {
    find.type(text);
    find.wait();
  }
  find.type("abcd");
  find.address("ab");
  expect(find.typed()).toBe("abcd");
  find.address("abc");
  expect(find.typed()).toBe("abcd");
});

it("shows at once what changed from outside, and tells nothing of it", () => {
  const find = field("one");
  find.address("two");
  expect(find.typed()).toBe("two");
  find.wait();
  expect(find.told).toEqual([]);
  find.type("three");
  find.enter();
  find.wait();
  expect(find.told).toEqual(["three"]);
});
