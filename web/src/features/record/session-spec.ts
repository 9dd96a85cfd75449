import type { Section } from "./spec";

export const LISTENING: Section = {
  title: "Listening",
  hint: "Kept apart from what was measured. Hearing protection first; start at a low level.",
  fields: [
    { path: "listening.extra_drive_off", label: "Extra drive is off again", kind: "tick" },
    { path: "listening.direct_current_checked", label: "Outputs checked for direct current", kind: "tick" },
    { path: "listening.speaker_last", label: "Speaker was connected last", kind: "tick" },
    { path: "listening.speakers", label: "Speakers" },
    { path: "listening.wiring", label: "Wired" },
    { path: "listening.load_ohm", label: "Load seen", kind: "number", unit: "Ω" },
    { path: "listening.track", label: "Track" },
    { path: "listening.level", label: "Level" },
    { path: "listening.words", label: "How it sounded", kind: "long", wide: true },
  ],
  tables: [],
};

export const POST_MORTEM: Section = {
  title: "After it died",
  hint: "Discharge the capacitors and measure them before you touch the board. Burnt parts and their fumes are poisonous: open a window.",
  fields: [
    { path: "post_mortem.on", label: "Opened on", kind: "date" },
    { path: "post_mortem.cause", label: "Cause, as far as it is known", kind: "long", wide: true },
  ],
  tables: [
    {
      path: "post_mortem.failed",
      title: "Parts that had failed",
      add: "Add a part",
      columns: [
        { path: "count", label: "Count", kind: "number" },
        { path: "part", label: "Part" },
        { path: "fault", label: "Fault", hint: "shorted, open, burnt" },
        { path: "place", label: "Place" },
      ],
    },
  ],
};

export const FOOTAGE: Section = {
  title: "Date and footage",
  fields: [
    { path: "measured_on", label: "Measured on", kind: "date", hint: "where it is not the day of the runs" },
    { path: "occasion", label: "Why it was tested again", hint: "of a retest" },
    { path: "footage_from", label: "Source of the footage" },
  ],
  tables: [
    {
      path: "claps",
      title: "Claps: a camera starts, and chapters count from there",
      add: "Add a clap",
      columns: [
        { path: "at", label: "At", kind: "time" },
        { path: "clip", label: "Clip" },
      ],
    },
  ],
};
