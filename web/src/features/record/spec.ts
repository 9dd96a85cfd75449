import type { Option } from "@/ui/choice";
import type { Unit } from "@/ui/numbers";

/** A field of a record: its place in it, and how it is typed. */
export interface Field {
  /** Dotted path in the record, or in a row of a table. */
  path: string;
  label: string;
  kind?: "text" | "long" | "number" | "date" | "time" | "tick" | "choice" | "lines";
  unit?: Unit;
  options?: readonly Option[];
  hint?: string;
  /** Takes the room of two. */
  wide?: boolean;
}

/** Rows of one kind. */
export interface Table {
  path: string;
  title: string;
  columns: readonly Field[];
  add: string;
}

/** A part of a record, filled in and saved by itself. */
export interface Section {
  title: string;
  hint?: string;
  fields: readonly Field[];
  tables: readonly Table[];
}
