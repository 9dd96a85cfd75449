import { useEffect, useId, useState } from "react";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Check } from "@/ui/check";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { useNotice } from "@/ui/notice";
import { kindWords, Watts } from "./claim-table";
import { loadWords, wiringWords } from "@/ui/wirings";

type PastedClaim = Schemas["PastedClaim"];
type PastedFact = Schemas["PastedFact"];
type Approved = Schemas["ApprovedClaims"];

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

/** Lines left out at first: those that are talready here. What was ticked by hand counts before that. */
const isOn = (ticked: ReadonlyMap<string, boolean>, key: string, already: boolean) => ticked.get(key) ?? !already;

/** Paste a spec table: each line that was read is shown with its text, and added only once it is approved. */
export function PasteDialog({ amplifierId, onClose }: { amplifierId: string; onClose: () => void }) {
  const { tell } = useNotice();
  const id = useId();
  const [text, setText] = useState("");
  const [source, setSource] = useState("manual");
  const [ticked, setTicked] = useState<ReadonlyMap<string, boolean>>(new Map());
  const [wirings, setWirings] = useState<ReadonlyMap<number, Schemas["Wiring"]>>(new Map());
  const [says, setSays] = useState<string[]>([]);
  const read = useSpecTable(amplifierId, text);
  const pasted = text.trim() === "" ? null : (read?.pasted ?? null);
  const claims = (pasted?.claims ?? []).map((line, i) => ({ ...line, wiring: wirings.get(i) ?? line.wiring }));
  const facts = pasted?.facts ?? [];
  const approved = claims.filter((line, i) => isOn(ticked, `claim ${String(i)}`, line.already ?? false));
  // A fact that would replace what the record says is left out until it is ticked.
  const taken = facts.filter((fact, i) => isOn(ticked, `fact ${String(i)}`, fact.now != null));
  const tick = (key: string) => (on: boolean) => setTicked((before) => new Map(before).set(key, on));
  const add = useWrite(
    (body: Approved) => data(api.POST("/api/amplifiers/{id}/claims/approved", { params: { path: { id: amplifierId } }, body })),
    [amplifierId],
  );
  const submit = () =>
    add.mutate(
      {
        claims: approved.map(({ text: from, ask, already, ...claim }) => ({ ...claim, source: source.trim() })),
        facts: taken.map((line) => line.fact),
      },
      {
        onSuccess: (rows) => {
          tell({ says: added(rows.length, taken.length), look: "plain", undo: true });
          onClose();
        },
        onError: (error) =>
          setSays(
            error instanceof Error && "problems" in error
              ? (error.problems as Schemas["Problem"][]).map((p) => p.says)
              : [(error as Error).message],
          ),
      },
    );
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
          setTicked(new Map());
          setWirings(new Map());
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
              on={approved.includes(line)}
              onChange={tick(`claim ${String(i)}`)}
              onWiring={(wiring) => setWirings((before) => new Map(before).set(i, wiring))}
            />
          ))}
        </ul>
      )}
      {facts.length > 0 && (
        <ul aria-label="Goes into the record" className="mt-2 grid max-h-[22vh] overflow-auto rounded-lg border border-line">
          {facts.map((fact, i) => (
            <FactLine key={i} fact={fact} on={taken.includes(fact)} onChange={tick(`fact ${String(i)}`)} />
          ))}
        </ul>
      )}
      {(pasted?.not_understood.length ?? 0) > 0 && (
        <div className="mt-2.5 rounded-md bg-ochre-wash px-3 py-2 text-step">
          <b>Not understood:</b>
          <ul className="num max-h-[18vh] overflow-auto">
            {pasted?.not_understood.map((line, i) => (
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
          <Button look="main" disabled={approved.length + taken.length === 0 || add.isPending} onClick={submit}>
            {`Add ${parts(approved.length, taken.length)}`}
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

const counted = (n: number, what: string) => (n === 1 ? `1 ${what}` : `${String(n)} ${what}s`);

/** "3 claims and 2 facts". */
function parts(claims: number, facts: number): string {
  const named = [claims > 0 || facts === 0 ? counted(claims, "claim") : "", facts > 0 ? counted(facts, "fact") : ""];
  return named.filter(Boolean).join(" and ");
}

const added = (claims: number, facts: number) =>
  claims + facts === 0 ? "All of them were already entered." : `${parts(claims, facts)} added.`;

function FactLine({ fact, on, onChange }: { fact: PastedFact; on: boolean; onChange: (on: boolean) => void }) {
  return (
    <li className="grid grid-cols-[auto_1fr] items-baseline gap-x-3 border-t border-hair px-3 py-1.5 first:border-t-0">
      <Check label="" name={`Add: ${fact.words}`} checked={on} onChange={onChange} />
      <span className={on ? "" : "text-ink3"}>
        {fact.words}
        {fact.now != null && <small className="block text-xs text-ink2">{`The record says ${fact.now}.`}</small>}
      </span>
    </li>
  );
}

interface LineProps {
  line: PastedClaim;
  on: boolean;
  onChange: (on: boolean) => void;
  onWiring: (wiring: Schemas["Wiring"]) => void;
}

/** Wirings that a line may mean when its text leaves it open. */
const otherWiring = (wiring: Schemas["Wiring"]): Schemas["Wiring"] | null =>
  wiring.kind === "bridged"
    ? { kind: "channels", driven: wiring.pairs }
    : wiring.kind === "channels"
      ? { kind: "bridged", pairs: wiring.driven }
      : wiring.kind === "mixed"
        ? otherLast(wiring)
        : null;

/** The last group the other way: the channel for a subwoofer is a pair, or is none. */
function otherLast(wiring: Schemas["Wiring"] & { kind: "mixed" }): Schemas["Wiring"] | null {
  const last = wiring.groups.at(-1);
  if (!last) return null;
  const other: Schemas["GroupWiring"] =
    last.wiring.kind === "bridged" ? { kind: "channels", driven: last.wiring.pairs } : { kind: "bridged", pairs: last.wiring.driven };
  return { kind: "mixed", groups: [...wiring.groups.slice(0, -1), { ...last, wiring: other }] };
}

function PastedLine({ line, on, onChange, onWiring }: LineProps) {
  const other = line.ask != null && line.wiring ? otherWiring(line.wiring) : null;
  const words = [
    line.wiring ? wiringWords(line.wiring) : "no wiring",
    loadWords(line.wiring, line.load_ohm) ?? "no load",
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
        {line.already && <span className="text-ink3"> · talready here</span>}
        {line.ask != null && (
          <span className="block text-xs text-ochre">
            {line.ask}{" "}
            {other && (
              <button type="button" className="underline" onClick={() => onWiring(other)}>
                {`Make it ${wiringWords(other)}`}
              </button>
            )}
          </span>
        )}
        <small className="block truncate text-xs text-ink2">{line.text}</small>
      </span>
    </li>
  );
}
