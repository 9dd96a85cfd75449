import { X } from "lucide-react";
import { useEffect, useRef, useState, type FormEvent } from "react";
import { Refusal } from "@/api/client";
import { Button } from "@/ui/button";
import { Check } from "@/ui/check";
import { ChoiceField } from "@/ui/choice";
import { CONTROL, Surround, TextField } from "@/ui/field";
import { useNotice } from "@/ui/notice";
import { draftOf, newRow, patchOf, type Draft, type Row, type Value } from "./draft";
import type { Field, Section, Table } from "./spec";

type Wrong = Record<string, string>;

/** What a refusal says, by the path of what it is about; what is about nothing here stands under "". */
function wrongOf(error: unknown, known: (path: string) => boolean): Wrong {
  if (!(error instanceof Refusal) || error.problems.length === 0) return { "": (error as Error).message };
  const wrong: Wrong = {};
  for (const { path, says } of error.problems) {
    const place = known(path) ? path : "";
    wrong[place] = [wrong[place], place === "" ? `${path}: ${says}` : says].filter(Boolean).join(" ");
  }
  return wrong;
}

/** A part of a record: filled in, and saved by itself. */
export function SectionForm({ section, record, save }: { section: Section; record: unknown; save: (patch: object) => Promise<unknown> }) {
  const [draft, setDraft] = useState<Draft>(() => draftOf(section, record));
  // As the records have it now, and as it was when this form was filled from them.
  const now = JSON.stringify(patchOf(section, draftOf(section, record)));
  const [seen, setSeen] = useState(now);
  const saved = useRef(false);
  const untouched = JSON.stringify(patchOf(section, draft)) === seen;
  useEffect(() => {
    if (now === seen || !(saved.current || untouched)) return;
    saved.current = false;
    setSeen(now);
    setDraft(draftOf(section, record));
  }, [now, seen, untouched, section, record]);
  const [wrong, setWrong] = useState<Wrong>({});
  const [saving, setSaving] = useState(false);
  const { tell } = useNotice();
  const setField = (path: string, value: Value) => setDraft((was) => ({ ...was, fields: { ...was.fields, [path]: value } }));
  const setRows = (path: string, change: (rows: Row[]) => Row[]) =>
    setDraft((was) => ({ ...was, tables: { ...was.tables, [path]: change(was.tables[path] ?? []) } }));
  const known = (path: string) => {
    const [table, n, column] = /^(.+)\[(\d+)\]\.(\w+)$/.exec(path)?.slice(1) ?? [];
    if (table === undefined) return path in draft.fields;
    return column !== undefined && draft.tables[table]?.[Number(n)]?.values[column] !== undefined;
  };
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    if (saving) return;
    if (now !== seen) {
      setSeen(now);
      setWrong({ "": "This part was changed elsewhere since it was opened here. Save again to put yours in its place." });
      return;
    }
    const read = patchOf(section, draft);
    if ("wrong" in read) {
      setWrong(read.wrong);
      return;
    }
    setSaving(true);
    try {
      await save(read.patch);
      saved.current = true;
      setWrong({});
      tell({ says: `${section.title} saved.`, look: "plain", undo: true });
    } catch (error) {
      setWrong(wrongOf(error, known));
    } finally {
      setSaving(false);
    }
  };
  return (
    <form className="grid gap-5" noValidate onSubmit={(event) => void submit(event)}>
      {section.fields.length > 0 && (
        <div className="grid items-start gap-3 sm:grid-cols-2 lg:grid-cols-3">
          {section.fields.map((field) => (
            <One
              key={field.path}
              field={field}
              value={draft.fields[field.path] ?? ""}
              error={wrong[field.path]}
              onChange={(value) => setField(field.path, value)}
            />
          ))}
        </div>
      )}
      {section.tables.map((table) => (
        <Rows
          key={table.path}
          table={table}
          rows={draft.tables[table.path] ?? []}
          wrong={wrong}
          onChange={(change) => setRows(table.path, change)}
        />
      ))}
      {wrong[""] && (
        <p role="alert" className="font-semibold text-stop">
          {wrong[""]}
        </p>
      )}
      <Button type="submit" look="main" className="justify-self-start" disabled={saving}>
        Save
      </Button>
    </form>
  );
}

function One({
  field,
  value,
  error,
  onChange,
}: {
  field: Field;
  value: Value;
  error: string | undefined;
  onChange: (value: Value) => void;
}) {
  const wide = field.wide ? "sm:col-span-2 lg:col-span-3" : "";
  if (field.kind === "tick") return <Check label={field.label} checked={value === true} onChange={onChange} />;
  const text = typeof value === "string" ? value : "";
  if (field.kind === "choice") {
    return (
      <ChoiceField label={field.label} options={field.options ?? []} value={text} error={error} className={wide} onChoose={onChange} />
    );
  }
  if (field.kind === "long" || field.kind === "lines") return <Lines field={field} value={text} error={error} onChange={onChange} />;
  return (
    <TextField
      label={field.label}
      className={wide}
      error={error}
      hint={field.hint}
      unit={field.unit === "money" ? undefined : field.unit}
      inputMode={field.kind === "number" ? "decimal" : undefined}
      type={field.kind === "date" ? "date" : field.kind === "time" ? "datetime-local" : "text"}
      step={field.kind === "time" ? 1 : undefined}
      value={text}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}

function Lines({
  field,
  value,
  error,
  onChange,
}: {
  field: Field;
  value: string;
  error: string | undefined;
  onChange: (value: string) => void;
}) {
  const id = `record-${field.path}`;
  return (
    <Surround id={id} label={field.label} hint={field.hint} error={error} className={field.wide ? "sm:col-span-2 lg:col-span-3" : ""}>
      <textarea
        id={id}
        rows={field.wide ? 3 : 4}
        className={CONTROL}
        aria-invalid={error ? true : undefined}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </Surround>
  );
}

function Rows({
  table,
  rows,
  wrong,
  onChange,
}: {
  table: Table;
  rows: Row[];
  wrong: Wrong;
  onChange: (change: (rows: Row[]) => Row[]) => void;
}) {
  const set = (id: string, path: string, value: Value) =>
    onChange((was) => was.map((row) => (row.id === id ? { ...row, values: { ...row.values, [path]: value } } : row)));
  return (
    <fieldset className="grid min-w-0 gap-2">
      <legend className="mb-1 font-firm">{table.title}</legend>
      {rows.map((row, n) => (
        <div
          key={row.id}
          role="group"
          aria-label={`${table.title}, row ${String(n + 1)}`}
          className="grid grid-cols-2 items-start gap-2 border-b border-hair pb-2 sm:flex"
        >
          {table.columns.map((field) => (
            <div key={field.path} className={field.kind === "tick" ? "pt-7 whitespace-nowrap" : "min-w-0 flex-1"}>
              <One
                field={field}
                value={row.values[field.path] ?? ""}
                error={wrong[`${table.path}[${String(n)}].${field.path}`]}
                onChange={(value) => set(row.id, field.path, value)}
              />
            </div>
          ))}
          <button
            type="button"
            aria-label={`Remove row ${String(n + 1)} of ${table.title}`}
            className="mt-6 justify-self-start rounded p-2 hover:bg-hair"
            onClick={() => onChange((was) => was.filter((other) => other.id !== row.id))}
          >
            <X size={16} aria-hidden />
          </button>
        </div>
      ))}
      <Button size="low" className="justify-self-start" onClick={() => onChange((was) => [...was, newRow(table)])}>
        {table.add}
      </Button>
    </fieldset>
  );
}
