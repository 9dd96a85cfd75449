import type { Section } from "./spec";

export const INSIDE: Section = {
  title: "Inside",
  hint: "With the lid off. Discharge the capacitors and measure them before you touch the board.",
  fields: [
    { path: "inside.board", label: "Board marking" },
    { path: "inside.cooling", label: "Cooling" },
    { path: "inside.note", label: "Notes", kind: "long", wide: true, hint: "topology seen, repairs, workmanship" },
  ],
  tables: [
    {
      path: "inside.capacitors",
      title: "Capacitors",
      add: "Add capacitors",
      columns: [
        { path: "count", label: "Count", kind: "number" },
        { path: "uf", label: "Each", kind: "number", unit: "µF" },
        { path: "rated_v", label: "Rated", kind: "number", unit: "V" },
        { path: "rated_c", label: "Up to", kind: "number", unit: "°C" },
        { path: "place", label: "Place", hint: "rails, supply" },
        { path: "label", label: "In the photo", hint: "A: as marked" },
        { path: "fake", label: "looks fake", kind: "tick" },
      ],
    },
    {
      path: "inside.devices",
      title: "Output devices and others",
      add: "Add devices",
      columns: [
        { path: "count", label: "Count", kind: "number" },
        { path: "part", label: "Marking" },
        { path: "rated_a", label: "Each rated", kind: "number", unit: "A" },
        { path: "place", label: "Place", hint: "outputs, converter" },
        { path: "label", label: "In the photo", hint: "B: as marked" },
      ],
    },
  ],
};

export const TOUR: Section = {
  title: "Tour",
  hint: "What you say while you show it round.",
  fields: [
    { path: "tour.remote", label: "Switching on", hint: "remote lead, high-level input, sensing" },
    { path: "tour.lights", label: "Lights" },
    { path: "tour.manual", label: "Manual" },
    { path: "tour.warranty", label: "Warranty" },
    { path: "tour.cooling", label: "Cooling" },
    { path: "tour.water_rating", label: "Water rating" },
    { path: "accessories", label: "Supplied with it", kind: "lines", hint: "one a line" },
    { path: "accessories_missing", label: "Missing", kind: "lines", hint: "promised and not in the box" },
    { path: "tour.stood_out", label: "What stood out", kind: "long", wide: true },
  ],
  tables: [
    {
      path: "tour.data_port",
      title: "Its own data port",
      add: "Add a reading",
      columns: [
        { path: "name", label: "Name there" },
        { path: "value", label: "Value shown" },
      ],
    },
  ],
};

export const TAGS: Section = {
  title: "Tags",
  hint: "For yourself alone: nothing of it is in what is shared or published.",
  fields: [
    { path: "tags", label: "Tags", kind: "lines", hint: "one a line: the shelf is filtered by them" },
    { path: "archived", label: "Put away: not on the shelf unless asked for, and counted all the same", kind: "tick" },
  ],
  tables: [],
};

export const OPINION: Section = {
  title: "Likes and relatives",
  fields: [
    { path: "likes", label: "Likes", kind: "lines", hint: "one a line" },
    { path: "consider", label: "Consider", kind: "lines", hint: "one a line" },
  ],
  tables: [
    {
      path: "relations",
      title: "Look-alikes, sisters, earlier versions",
      add: "Add a relative",
      columns: [
        {
          path: "kind",
          label: "Kind",
          kind: "choice",
          options: [
            ["look-alike", "look-alike"],
            ["sister", "sister"],
            ["earlier", "earlier version"],
          ],
        },
        { path: "name", label: "Name" },
        { path: "figures", label: "Figures of another test" },
        { path: "source", label: "Their source" },
      ],
    },
  ],
};

export const PRICES: Section = {
  title: "Prices",
  fields: [],
  tables: [
    {
      path: "prices",
      title: "Each with its date",
      add: "Add a price",
      columns: [
        {
          path: "kind",
          label: "Kind",
          kind: "choice",
          options: [
            ["paid", "paid"],
            ["list", "list"],
            ["street", "street"],
          ],
        },
        { path: "amount", label: "Amount", kind: "number", unit: "money" },
        { path: "currency", label: "Currency", hint: "GBP, EUR" },
        { path: "on", label: "On", kind: "date" },
      ],
    },
  ],
};

export const LOAN: Section = {
  title: "Loan",
  hint: "Private: never on a sheet, a card or in a shared file.",
  fields: [
    { path: "loan.lent_by", label: "Lent by" },
    { path: "loan.back_by", label: "Due back", kind: "date" },
    {
      path: "loan.ended.how",
      label: "How it ended",
      kind: "choice",
      options: [
        ["", "still here"],
        ["returned", "returned"],
        ["died", "died here"],
        ["replaced", "replaced"],
      ],
    },
    { path: "loan.ended.on", label: "Ended on", kind: "date" },
    { path: "loan.ended.cost", label: "Cost, and who paid", wide: true },
  ],
  tables: [],
};
