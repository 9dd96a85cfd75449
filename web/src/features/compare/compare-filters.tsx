import { ChevronDown } from "lucide-react";
import { Button } from "@/ui/button";
import { ChoiceField, type Option } from "@/ui/choice";
import { TextField } from "@/ui/field";
import { Opens } from "@/ui/opens";
import { pill } from "@/ui/pill";
import { useTyped } from "@/ui/use-typed";
import type { Compare } from "./use-compare";

const CLASSES: readonly Option[] = [
  ["", "any class"],
  ["D", "class D"],
  ["AB", "class AB"],
  ["GH", "class G or H"],
  ["other", "another class"],
];
const PURPOSES: readonly Option[] = [
  ["", "any purpose"],
  ["subwoofer", "subwoofer"],
  ["full-range", "full range"],
];
const OUTPUTS: readonly Option[] = [["", "any number"], ...["1", "2", "4", "5", "6"].map((count) => [count, count] as const)];
const LOADS: readonly Option[] = [["", "where it is most"], ...["8", "4", "2", "1", "0.5"].map((ohm) => [ohm, `${ohm}\u202fΩ`] as const)];

/** What stands under More. */
const FURTHER = ["outputs", "load", "tested_from", "tested_until", "price_least", "claim_near"] as const;

/** Which amplifiers are shown, and at which load. */
export function CompareFilters({ compare }: { compare: Compare }) {
  const name = useTyped(compare.text("find"), (text) => compare.set("find", text));
  const further = FURTHER.filter((one) => compare.text(one) !== "").length;
  return (
    <>
      <TextField
        className="w-36"
        label="Name"
        type="search"
        value={name.typed}
        maxLength={200}
        onChange={(event) => name.setTyped(event.target.value)}
      />
      <ChoiceField
        className="w-32"
        label="Class"
        options={CLASSES}
        value={compare.text("class")}
        onChoose={(value) => compare.set("class", value)}
      />
      <ChoiceField
        className="w-36"
        label="Purpose"
        options={PURPOSES}
        value={compare.text("purpose")}
        onChoose={(value) => compare.set("purpose", value)}
      />
      <NumberFilter className="w-24" label="Price up to" name="price_most" compare={compare} />
      <Opens label="More filters" className={pill(further > 0)} shows={() => <Further compare={compare} />}>
        More{further > 0 && ` (${String(further)})`}
        <ChevronDown size={15} aria-hidden />
      </Opens>
      {compare.filtered && (
        <Button look="quiet" size="low" onClick={compare.clearFilters}>
          Show all
        </Button>
      )}
    </>
  );
}

function Further({ compare }: { compare: Compare }) {
  return (
    <div className="grid grid-cols-2 gap-3">
      <ChoiceField label="Clean power at" options={LOADS} value={compare.text("load")} onChoose={(value) => compare.set("load", value)} />
      <ChoiceField label="Outputs" options={OUTPUTS} value={compare.text("outputs")} onChoose={(value) => compare.set("outputs", value)} />
      <DayFilter label="Tested from" name="tested_from" compare={compare} />
      <DayFilter label="Tested until" name="tested_until" compare={compare} />
      <NumberFilter label="Price from" name="price_least" compare={compare} />
      <NumberFilter label="Rivals at a claim of" unit="W" hint="within a fifth" name="claim_near" compare={compare} />
    </div>
  );
}

function DayFilter({ label, name, compare }: { label: string; name: "tested_from" | "tested_until"; compare: Compare }) {
  return <TextField label={label} type="date" value={compare.text(name)} onChange={(event) => compare.set(name, event.target.value)} />;
}

function NumberFilter({
  name,
  compare,
  ...shown
}: {
  label: string;
  className?: string;
  unit?: string;
  hint?: string;
  name: "price_least" | "price_most" | "claim_near";
  compare: Compare;
}) {
  const typed = useTyped(compare.text(name), (text) => compare.set(name, text));
  return (
    <TextField
      inputMode="decimal"
      value={typed.typed}
      onChange={(event) => typed.setTyped(event.target.value.replace(",", "."))}
      {...shown}
    />
  );
}
