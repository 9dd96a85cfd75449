import { ArrowDown, ArrowUp, ChevronDown } from "lucide-react";
import { useState } from "react";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/button";
import { Check } from "@/ui/check";
import { ChoiceField, type Option } from "@/ui/choice";
import { TextField } from "@/ui/field";
import { Opens } from "@/ui/opens";
import { pill } from "@/ui/pill";
import { ViewsMenu } from "../views/views-menu";
import type { Choosing } from "./use-choosing";
import { type Least, type Several, type ShelfAsks } from "./shelf-query";

const SORTS: readonly Option[] = [
  ["", "last worked on"],
  ["name", "name"],
  ["verdict", "verdict"],
  ["stage", "state"],
  ["class", "class"],
  ["purpose", "purpose"],
  ["price", "price"],
  ["clean", "clean watts"],
  ["headline", "headline claim"],
];

const FILTERS: readonly { name: Several; title: string; options: readonly Option[] }[] = [
  {
    name: "verdict",
    title: "Verdict",
    options: [
      ["modest", "modest"],
      ["pukka", "pukka"],
      ["near-enough", "near enough"],
      ["optimistic", "optimistic"],
      ["tall-tale", "tall tale"],
      ["open", "open"],
    ],
  },
  {
    name: "stage",
    title: "State",
    options: [
      ["no-claims", "no claims yet"],
      ["not-run", "claims entered, not run"],
      ["under-test", "under test"],
      ["tested", "tested"],
      ["died", "died"],
    ],
  },
  {
    name: "class",
    title: "Class",
    options: [
      ["AB", "AB"],
      ["D", "D"],
      ["GH", "G or H"],
      ["other", "other"],
    ],
  },
  {
    name: "purpose",
    title: "Purpose",
    options: [
      ["full-range", "full range"],
      ["subwoofer", "subwoofer"],
    ],
  },
];

/** How the shelf is sorted, and which part of it is shown. */
export function ShelfFilters({
  shelf,
  found,
  down,
  tags,
  archived,
  choosing,
}: {
  shelf: ShelfAsks;
  found: number | undefined;
  down: boolean;
  tags: readonly Schemas["TagInUse"][];
  archived: number;
  choosing: Choosing;
}) {
  const away = shelf.text("archived") === "true";
  return (
    <div role="group" aria-label="Sort and filter" className="mt-3 flex flex-wrap items-center gap-2">
      {FILTERS.map(({ name, title, options }) => (
        <Filter key={name} name={name} title={title} options={options} shelf={shelf} />
      ))}
      {tags.length > 0 && (
        <Filter name="tag" title="Tag" options={tags.map(({ tag, count }) => [tag, `${tag} (${String(count)})`] as const)} shelf={shelf} />
      )}
      {(archived > 0 || away) && (
        <button type="button" aria-pressed={away} className={pill(away)} onClick={() => shelf.set("archived", away ? "" : "true")}>
          Put away ({archived})
        </button>
      )}
      <Limit name="price_most" title="Price up to" shelf={shelf} />
      <Limit name="clean_least" title="Clean watts from" unit="W" shelf={shelf} />
      {shelf.filtered && (
        <Button look="quiet" size="low" onClick={shelf.clear}>
          Clear
        </Button>
      )}
      <span role="status" className="text-note text-ink2">
        {shelf.filtered && found !== undefined && `${String(found)} found`}
      </span>
      <span className="ml-auto flex flex-wrap items-center justify-end gap-1.5">
        <ViewsMenu page="shelf" path="/" className={pill(false)} />
        <button
          type="button"
          aria-pressed={choosing.chosen !== null}
          className={pill(choosing.chosen !== null)}
          onClick={choosing.chosen === null ? choosing.begin : choosing.end}
        >
          Choose
        </button>
        <ChoiceField
          quiet
          label="Sort by"
          className="w-[168px]"
          value={shelf.text("sort")}
          onChoose={(sort) => {
            shelf.set("descending", "");
            shelf.set("sort", sort);
          }}
          options={SORTS}
        />
        <Button
          size="low"
          className="min-h-9 px-2.5"
          aria-label={down ? "Largest or latest first: turn round" : "Smallest or earliest first: turn round"}
          onClick={() => shelf.set("descending", String(!down))}
        >
          {down ? <ArrowDown size={16} aria-hidden /> : <ArrowUp size={16} aria-hidden />}
        </Button>
      </span>
    </div>
  );
}

function Filter({ name, title, options, shelf }: { name: Several; title: string; options: readonly Option[]; shelf: ShelfAsks }) {
  const on = shelf.listed(name);
  return (
    <Opens
      label={title}
      className={pill(on.length > 0)}
      shows={() => (
        <ul className="grid gap-2">
          {options.map(([value, words]) => (
            <li key={value}>
              <Check label={words} checked={on.includes(value)} onChange={() => shelf.toggle(name, value)} />
            </li>
          ))}
        </ul>
      )}
    >
      {title}
      {on.length > 0 && `: ${on.map((value) => options.find(([known]) => known === value)?.[1] ?? value).join(", ")}`}
      <ChevronDown size={15} aria-hidden />
    </Opens>
  );
}

function Limit({ name, title, unit, shelf }: { name: Least; title: string; unit?: string; shelf: ShelfAsks }) {
  const kept = shelf.text(name);
  const [typed, setTyped] = useState(kept);
  return (
    <Opens
      label={title}
      className={pill(kept !== "")}
      shows={() => (
        <TextField
          label={title}
          autoFocus
          inputMode="decimal"
          {...(unit ? { unit } : {})}
          value={typed}
          onChange={(event) => {
            const text = event.target.value.replace(",", ".");
            setTyped(text);
            if (text === "" || /^\d+(\.\d+)?$/.test(text)) shelf.set(name, text);
          }}
        />
      )}
    >
      {title}
      {kept !== "" && ` ${kept}${unit ? ` ${unit}` : ""}`}
      <ChevronDown size={15} aria-hidden />
    </Opens>
  );
}
