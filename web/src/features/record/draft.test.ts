import { expect, it } from "vitest";
import { draftOf, newRow, patchOf } from "./draft";
import { INSIDE, LOAN, TOUR } from "./amplifier-spec";
import { FOOTAGE } from "./session-spec";

const inside = {
  inside: { rail_capacitor_v: 63, board: "FL 12", capacitors: [{ count: 4, uf: 3300, rated_v: 63, place: "rails", seen_by: "Wren" }] },
};

it("says again what it was given, with the keys that it does not show", () => {
  const answer = patchOf(INSIDE, draftOf(INSIDE, inside));
  expect(answer).toEqual({
    patch: {
      inside: {
        board: "FL 12",
        cooling: null,
        note: null,
        capacitors: [{ count: 4, uf: 3300, rated_v: 63, rated_c: null, place: "rails", fake: false, label: null, seen_by: "Wren" }],
        devices: [],
      },
    },
  });
});

it("reads numbers as people type them, and leaves rows with nothing in them out", () => {
  const draft = draftOf(INSIDE, inside);
  const [table] = INSIDE.tables;
  if (!table) throw new Error("no table");
  draft.tables["inside.capacitors"]?.push(newRow(table));
  const [row] = draft.tables["inside.capacitors"] ?? [];
  if (row) row.values.uf = "4700 µF";
  const answer = patchOf(INSIDE, draft);
  expect(answer).toMatchObject({ patch: { inside: { capacitors: [{ uf: 4700 }] } } });
  if (row) row.values.uf = "4700 V";
  expect(patchOf(INSIDE, draft)).toEqual({ wrong: { "inside.capacitors[0].uf": "“4700 V” is not in µF." } });
});

it("takes lists a line each", () => {
  const draft = draftOf(TOUR, { accessories: ["allen key", "fuses"] });
  expect(draft.fields.accessories).toBe("allen key\nfuses");
  draft.fields.accessories = "allen key\n\n  fuses, 3 of them ";
  expect(patchOf(TOUR, draft)).toMatchObject({ patch: { accessories: ["allen key", "fuses, 3 of them"] } });
});

it("takes the end of a loan away where it is still here", () => {
  const draft = draftOf(LOAN, { loan: { lent_by: "a reader", ended: { how: "returned", on: "2026-11-20" } } });
  expect(patchOf(LOAN, draft)).toMatchObject({ patch: { loan: { ended: { how: "returned", on: "2026-11-20" } } } });
  draft.fields["loan.ended.how"] = "";
  expect(patchOf(LOAN, draft)).toMatchObject({ patch: { loan: { lent_by: "a reader", ended: null } } });
});

it("keeps a moment to the second through the time of this place", () => {
  const draft = draftOf(FOOTAGE, { claps: [{ at: "2026-11-20T10:02:14Z", clip: null }] });
  expect(patchOf(FOOTAGE, draft)).toMatchObject({ patch: { claps: [{ at: "2026-11-20T10:02:14.000Z" }] } });
});
