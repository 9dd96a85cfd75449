import { newId } from "@/ui/ids";
import { readNumber, writeNumber } from "@/ui/numbers";
import type { Field, Section, Table } from "./spec";

export type Value = string | boolean;

export interface Row {
  id: string;
  values: Record<string, Value>;
  /** The row as it came: keys that no column shows stay with it. */
  was: Record<string, unknown>;
}

/** What stands in the fields of a section, as typed. */
export interface Draft {
  fields: Record<string, Value>;
  tables: Record<string, Row[]>;
}

type Json = Record<string, unknown>;

const isRecord = (value: unknown): value is Json => typeof value === "object" && value !== null && !Array.isArray(value);

function at(record: unknown, path: string): unknown {
  return path.split(".").reduce<unknown>((inside, key) => (isRecord(inside) ? inside[key] : undefined), record);
}

function put(record: Json, path: string, value: unknown) {
  const keys = path.split(".");
  const last = keys.pop() ?? path;
  let inside = record;
  for (const key of keys) {
    const next = inside[key];
    inside = isRecord(next) ? next : (inside[key] = {});
  }
  inside[last] = value;
}

/** A moment as a field of a form takes it, in the time of this place. */
function localTime(value: unknown): string {
  const moment = new Date(String(value));
  if (Number.isNaN(moment.getTime())) return "";
  return new Date(moment.getTime() - moment.getTimezoneOffset() * 60_000).toISOString().slice(0, 19);
}

function shown(field: Field, value: unknown): Value {
  if (field.kind === "tick") return value === true;
  if (field.kind === "number") return typeof value === "number" ? writeNumber(value) : "";
  if (field.kind === "lines") return Array.isArray(value) ? value.join("\n") : "";
  if (field.kind === "time") return value === undefined || value === null ? "" : localTime(value);
  return typeof value === "string" ? value : "";
}

/** What a field says. Throws when it cannot be read. */
function said(field: Field, value: Value): unknown {
  if (typeof value === "boolean") return value;
  const text = value.trim();
  if (field.kind === "number") return readNumber(text, field.unit);
  if (field.kind === "time") return text === "" ? null : new Date(text).toISOString();
  if (field.kind === "lines") {
    return text
      .split("\n")
      .map((line) => line.trim())
      .filter((line) => line !== "");
  }
  return text === "" ? null : text;
}

export function newRow(table: Table): Row {
  const first = (field: Field): Value => (field.kind === "tick" ? false : field.kind === "choice" ? (field.options?.[0]?.[0] ?? "") : "");
  return { id: newId(), values: Object.fromEntries(table.columns.map((field) => [field.path, first(field)])), was: {} };
}

export function draftOf(section: Section, record: unknown): Draft {
  const rows = (table: Table): Row[] => {
    const list = at(record, table.path);
    return (Array.isArray(list) ? list : []).filter(isRecord).map((was) => ({
      id: newId(),
      values: Object.fromEntries(table.columns.map((field) => [field.path, shown(field, was[field.path])])),
      was,
    }));
  };
  return {
    fields: Object.fromEntries(section.fields.map((field) => [field.path, shown(field, at(record, field.path))])),
    tables: Object.fromEntries(section.tables.map((table) => [table.path, rows(table)])),
  };
}

const isBlank = (row: Row) => Object.values(row.values).every((value) => value === "" || value === false);

/** A merge patch that says what the fields say, or what is wrong by its path. Rows with nothing in them are left out. */
export function patchOf(section: Section, draft: Draft): { patch: Json } | { wrong: Record<string, string> } {
  const patch: Json = {};
  const wrong: Record<string, string> = {};
  const read = (field: Field, value: Value | undefined, path: string): unknown => {
    try {
      return said(field, value ?? "");
    } catch (error) {
      wrong[path] = (error as Error).message;
      return null;
    }
  };
  for (const field of section.fields) put(patch, field.path, read(field, draft.fields[field.path], field.path));
  for (const table of section.tables) {
    const rows = (draft.tables[table.path] ?? []).filter((row) => !(isBlank(row) && Object.keys(row.was).length === 0));
    const written = rows.map((row, n) => {
      const own = table.columns.map((field) => [
        field.path,
        read(field, row.values[field.path], `${table.path}[${String(n)}].${field.path}`),
      ]);
      return { ...row.was, ...(Object.fromEntries(own) as Json) };
    });
    put(patch, table.path, written);
  }
  // A choice that stands for nothing takes the whole record behind it away.
  dropEmptyChoices(section, patch);
  return Object.keys(wrong).length > 0 ? { wrong } : { patch };
}

function dropEmptyChoices(section: Section, patch: Json) {
  for (const field of section.fields) {
    if (field.kind !== "choice" || at(patch, field.path) !== null) continue;
    const parent = field.path.split(".").slice(0, -1).join(".");
    if (parent !== "") put(patch, parent, null);
  }
}
