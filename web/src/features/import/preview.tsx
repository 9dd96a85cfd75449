import type { Schemas } from "@/api/client";
import { Check } from "@/ui/check";
import { Disclosure } from "@/ui/disclosure";

type Entry = Schemas["ArrivalView"];

const WORDS: Record<Schemas["What"], [string, string]> = {
  added: ["New", "text-verdigris"],
  changed: ["Changed", "text-ochre"],
  same: ["Already here", "text-ink2"],
  refused: ["Refused", "text-stop"],
};

/** What a file would do, an entry an amplifier; each can be left out. */
export function Preview({
  view,
  skip,
  onSkip,
  links,
  onLinks,
}: {
  view: Schemas["ImportView"];
  skip: number[];
  onSkip: (skip: number[]) => void;
  links: boolean;
  onLinks: (links: boolean) => void;
}) {
  return (
    <section aria-label="Preview of the import" className="mt-3">
      <ul className="grid gap-px overflow-hidden rounded-lg border border-line bg-hair">
        {view.entries.map((entry, i) => (
          <li key={i} className="grid gap-x-4 gap-y-1 bg-sheet px-4 py-3 sm:grid-cols-[1fr_110px_100px]">
            <div className="min-w-0">
              <b className="font-bold">{entry.name || "The file"}</b>
              <Details entry={entry} />
            </div>
            <span className={`font-semibold ${WORDS[entry.what][1]}`}>{WORDS[entry.what][0]}</span>
            {entry.what === "added" || entry.what === "changed" ? (
              <Check
                label="Import"
                checked={!skip.includes(i)}
                onChange={(on) => onSkip(on ? skip.filter((other) => other !== i) : [...skip, i])}
              />
            ) : (
              <span />
            )}
          </li>
        ))}
      </ul>
      {view.benches.length > 0 && <p className="mt-3 text-step">Bench profiles: {view.benches.join("; ")}.</p>}
      {view.links.length > 0 && (
        <div className="mt-3 text-step">
          <Check label="Set up its instrument links too: Pukka connects to these addresses by itself" checked={links} onChange={onLinks} />
          <ul className="num mt-1 grid gap-0.5 pl-7 text-note text-ink2">
            {view.links.map((line) => (
              <li key={line}>{line}</li>
            ))}
          </ul>
        </div>
      )}
      {view.left_out.length > 0 && (
        <List title="Cannot be read, left out" lines={view.left_out.map((problem) => `${problem.path}: ${problem.says}`)} />
      )}
      {view.not_known.length > 0 && <List title="Left out: unknown here" lines={view.not_known} />}
    </section>
  );
}

function Details({ entry }: { entry: Entry }) {
  return (
    <div className="text-step">
      {entry.brings.length > 0 && <p className="text-ink2">{entry.brings.join(", ")}</p>}
      {entry.problems.length > 0 && (
        <ul className="mt-1 grid gap-0.5">
          {entry.problems.map((problem) => (
            <li key={problem.path + problem.says}>
              {problem.path && <span className="num mr-2 text-stop">{problem.path}</span>}
              {problem.says}
            </li>
          ))}
        </ul>
      )}
      {entry.unknown.length > 0 && <List title="Keys unknown to this version: kept, not used" lines={entry.unknown} />}
      {entry.inert.length > 0 && <List title="Text a spreadsheet would run as a formula: kept, made inert in CSV" lines={entry.inert} />}
    </div>
  );
}

function List({ title, lines }: { title: string; lines: string[] }) {
  return (
    <Disclosure
      className="mt-1 text-note"
      says={
        <span className="text-ink2">
          {title} ({lines.length})
        </span>
      }
    >
      <ul className="num mt-1 grid gap-0.5 pl-4">
        {lines.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </ul>
    </Disclosure>
  );
}
