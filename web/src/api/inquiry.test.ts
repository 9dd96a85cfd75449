import { describe, expect, it } from "vitest";
import { kindOf } from "./inquiry";

// Every path of the interface is held against this in crates/pukka/tests/server/contract.rs, which has its description.
describe("what there is to ask when no answer comes", () => {
  it.each(["/api/sessions/{id}/previews", "/api/amplifiers/{id}/sense-checks", "/api/writes/{key}"])("nothing of %s", (path) =>
    expect(kindOf(path)).toBe("question"),
  );

  it.each(["/api/sessions/{id}/runs", "/api/claims/{id}", "/api/undos"])("%s is known by its key", (path) =>
    expect(kindOf(path)).toBe("keyed"),
  );

  it.each(["/api/imports", "/api/sessions/{id}/live"])("%s is saved piece by piece", (path) => expect(kindOf(path)).toBe("without-key"));
});
