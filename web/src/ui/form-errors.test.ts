import { expect, it, vi } from "vitest";
import { Refusal } from "@/api/client";
import { placeErrors, readFields } from "./form-errors";
import { readNumber } from "./numbers";

interface Fields {
  load: string;
  power: string;
}

const fieldOf = (path: string) => (path === "load_ohm" ? "load" : null);

it("puts what a refusal says beside its field, and the rest at the foot", () => {
  const setError = vi.fn();
  const problems = [
    { path: "load_ohm", says: "Too little." },
    { path: "made_up", says: "There is no such field." },
  ];
  expect(placeErrors<Fields>(new Refusal(422, "invalid", "2 fields", problems), fieldOf, setError)).toEqual([
    "made_up: There is no such field.",
  ]);
  expect(setError).toHaveBeenCalledExactlyOnceWith("load", { message: "Too little." });
});

it("says a refusal without fields, and an error of another kind, in their own words", () => {
  const setError = vi.fn();
  expect(placeErrors<Fields>(new Refusal(409, "armed", "A run is armed.", []), fieldOf, setError)).toEqual(["A run is armed."]);
  expect(placeErrors<Fields>(new Error("gone"), fieldOf, setError)).toEqual(["gone"]);
  expect(setError).not.toHaveBeenCalled();
});

it("reads every field, and names each that cannot be read", () => {
  const setError = vi.fn();
  const read = (load: string, power: string) =>
    readFields<Fields, { load: number | null; power: number | null }>(
      { load: ["load", () => readNumber(load)], power: ["power", () => readNumber(power)] },
      setError,
    );
  expect(read("4", "450")).toEqual({ load: 4, power: 450 });
  expect(read("four", "much")).toBeNull();
  expect(setError.mock.calls.map(([field]) => field as string)).toEqual(["load", "power"]);
});
