import type { Schemas } from "@/api/client";

/** The dialog that is open at the bench: one at a time. */
export type Opened = { kind: "incident" | "meter" | "load" } | { kind: "correct" | "history" | "ramp" | "note"; run: Schemas["RunBrief"] };
