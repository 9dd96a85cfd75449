import { useEffect, useId, useState } from "react";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Check } from "@/ui/check";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { useNotice } from "@/ui/notice";
import { kindWords, Watts } from "./claim-table";
import { wiringWords } from "@/ui/wirings";

type PastedClaim = Schemas["PastedClaim"];

/** What a block of text comes to as it is pasted or typed; an answer to an older text is dropped. */
function useSpecTable(amplifierId: string, text: string) {
  const [read, setRead] = useState<{ of: string; pasted: Schemas["PasteResult"] | null; says: string } | null>(null);
  useEffect(() => {
    if (text.trim() === "") return;
    const abort = new AbortController();
    data(api.POST("/api/amplifiers/{id}/spec-tables", { params: { path: { id: amplifierId } }, body: { text }, signal: abort.signal }))
      .then((pasted) => setRead({ of: text, pasted, says: "" }))
      .catch((error: unknown) => {
        if (!abort.signal.aborted) setRead({ of: text, pasted: null, says: (error as Error).message });
      });
    return () => abort.abort();
  }, [amplifierId, text]);
  return read?.of === text ? read : null;
}

/** Paste a spec table: each line that was read is shown with its text, and added only once it is approved. */
export function PasteDialog({ amplifierId, onClose }: { amplifierId: string; onClose: () => void }) {
  const { tell } = useNotice();
  const id = useId();
  const [text, setText] = useState("");
  const [source, setSource] = useState("manual");
  const [left, setLeft] = useState<ReadonlySet<number>>(new Set());
  const [says, setSays] = useState<string[]>([]);
  const read = useSpecTable(amplifierId, text);
  const claims = text.trim() === "" ? [] : (read?.pasted?.claims ?? []);
  const approved = claims.filter((_, i) => !left.has(i));
  const add = useWrite(
    (lines: PastedClaim[]) =>
      data(
        api.POST("/api/amplifiers/{id}/claims/approved", {
          params: { path: { id: amplifierId } },
          body: { claims: lines.map(({ text: from, ...claim }) => ({ ...claim, source: source.trim() })) },
        }),
      ),
    [amplifierId],
  );
  const submit = () =>
    add.mutate(approved, {
      onSuccess: (rows) => {
        tell({ says: rows.length === 1 ? "1 claim added." : `${String(rows.length)} claims added.`, look: "plain", undo: true });
        onClose();
      },
      onError: (error) =>
        setSays(
          error instanceof Error && "problems" in error
            ? (error.problems as Schemas["Problem"][]).map((p) => p.says)
            : [(error as Error).message],
        ),
    });
  return (
    <Dialog open onClose={onClose} title="Paste a spec table" width="max-w-[820px]">
      <label htmlFor={id} className="text-sm text-ink2">
        Text from the manual, the box or the page; any of English, German, Spanish, Portuguese
      </label>
      <textarea
        id={id}
        rows={6}
        autoFocus
        spellCheck={false}
        maxLength={20_000}
        value={text}
        placeholder={"RMS power (14.4 V, 1 % THD)\n4 Ω: 4 x 90 W\n2 Ω: 4 x 140 W"}
        className="mt-1 w-full rounded-md border border-edge bg-field px-2.5 py-1.5 font-mono text-note placeholder:text-ink3"
        onChange={(event) => {
          setText(event.target.value);
          setLeft(new Set());
          setSays([]);
        }}
      />
      {read?.says && (
        <p role="alert" className="text-sm text-stop">
          {read.says}
        </p>
      )}
      {claims.length > 0 && (
        <ul aria-label="Claims that were read" className="mt-2 grid max-h-[36vh] overflow-auto rounded-lg border border-line">
          {claims.map((line, i) => (
            <PastedLine
              key={i}
              line={line}
              on={!left.has(i)}
              onChange={(on) => setLeft((before) => new Set(on ? [...before].filter((other) => other !== i) : [...before, i]))}
            />
          ))}
        </ul>
      )}
      {text.trim() !== "" && (read?.pasted?.not_understood.length ?? 0) > 0 && (
        <div className="mt-2.5 rounded-md bg-ochre-wash px-3 py-2 text-step">
          <b>Not read as a claim:</b>
          <ul className="num max-h-[18vh] overflow-auto">
            {read?.pasted?.not_understood.map((line, i) => (
              <li key={i}>{line}</li>
            ))}
          </ul>
        </div>
      )}
      {says.map((line) => (
        <p key={line} role="alert" className="mt-2 rounded-md bg-stop-wash px-3 py-2">
          {line}
        </p>
      ))}
      <div className="mt-3.5 flex flex-wrap items-end justify-between gap-2">
        <TextField label="Where it is printed" className="w-[180px]" value={source} onChange={(event) => setSource(event.target.value)} />
        <div className="flex gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" disabled={approved.length === 0 || add.isPending} onClick={submit}>
            {approved.length === 1 ? "Add 1 claim" : `Add ${String(approved.length)} claims`}
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

function PastedLine({ line, on, onChange }: { line: PastedClaim; on: boolean; onChange: (on: boolean) => void }) {
  const words = [
    line.wiring ? wiringWords(line.wiring) : "no wiring",
    line.load_ohm == null ? "no load" : `${String(line.load_ohm)}\u202fΩ`,
    kindWords(line),
    line.supply_v == null ? null : `${String(line.supply_v)}\u202fV`,
    line.tone_hz == null ? null : `${String(line.tone_hz)}\u202fHz`,
  ];
  return (
    <li
      className={`grid grid-cols-[auto_130px_1fr] items-baseline gap-x-3 border-t border-hair px-3 py-1.5 first:border-t-0 ${on ? "" : "text-ink3 line-through"}`}
    >
      <Check label="" name={`Add: ${line.text}`} checked={on} onChange={onChange} />
      <Watts claim={line} />
      <span>
        {words.filter(Boolean).join(" · ")}
        <small className="block truncate text-xs text-ink2">{line.text}</small>
      </span>
    </li>
  );
}
