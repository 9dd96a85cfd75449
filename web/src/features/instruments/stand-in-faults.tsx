import { X } from "lucide-react";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/button";
import { Check } from "@/ui/check";
import { ChoiceField, type Option } from "@/ui/choice";

/** A fault of one instrument, and what it does in words. */
const FAULTS: readonly Option[] = [
  ["voltmeter,DROP", "voltmeter hangs up"],
  ["voltmeter,STALL", "voltmeter does not answer"],
  ["voltmeter,COMMA", "voltmeter writes 14,38"],
  ["analyser,GARBAGE", "analyser sends rubbish"],
  ["analyser,OVERLOAD", "analyser is past its range"],
  ["analyser,FREEZE", "analyser is frozen"],
  ["analyser,LATE", "analyser answers one question late"],
  ["ammeter,MILLI", "ammeter reads milliamps"],
  ["generator,IGNORE-ZERO", "generator ignores zero"],
  ["generator,IGNORE", "generator ignores commands"],
  ["generator,REFUSE-LEVEL", "generator refuses levels"],
  ["generator,DEAF", "generator is deaf"],
  ["generator,DROP", "generator hangs up"],
];

const wordsOf = (fault: string) => FAULTS.find(([known]) => known === fault)?.[1] ?? fault.toLowerCase().replace(",", ": ");

/** What is wrong with the stand-in bench, whichever tab set it, and what can be. */
export function StandInFaults({ faults, set }: { faults: Schemas["StandInFaults"]; set: (change: Schemas["StandInChange"]) => void }) {
  const any = faults.charger_on || faults.load_switch_wrong || faults.clamp_factor !== 1 || faults.instruments.length > 0;
  return (
    <section aria-label="Faults of the stand-in" className="mt-3 border-t border-hair pt-2.5 text-step">
      <div className="flex flex-wrap items-center gap-x-5 gap-y-2">
        <h3 className="text-note font-firm text-ink2">Faults</h3>
        <Check label="charger left on" checked={faults.charger_on} onChange={(on) => set({ charger_on: on })} />
        <Check label="load switch a step low" checked={faults.load_switch_wrong} onChange={(on) => set({ load_switch_wrong: on })} />
        <Check label="clamp reads half" checked={faults.clamp_factor !== 1} onChange={(on) => set({ clamp_factor: on ? 0.5 : 1 })} />
      </div>
      {faults.instruments.length > 0 && (
        <ul aria-label="Faults that are on" className="mt-2 flex flex-wrap gap-1.5">
          {faults.instruments.map((fault) => (
            <li key={fault} className="flex items-center gap-1 rounded-md bg-ochre-wash py-0.5 pr-1 pl-2.5">
              {wordsOf(fault)}
              <button
                type="button"
                aria-label={`Remove: ${wordsOf(fault)}`}
                className="rounded p-1 hover:bg-hair"
                onClick={() => set({ fault: `${fault.split(",")[0] ?? ""},NONE` })}
              >
                <X size={14} aria-hidden />
              </button>
            </li>
          ))}
        </ul>
      )}
      <div className="mt-2 flex flex-wrap items-end gap-3">
        <ChoiceField
          label="Add a fault"
          className="w-[280px]"
          value=""
          onChoose={(fault) => fault !== "" && set({ fault })}
          options={[["", any ? "choose another" : "none is on"], ...FAULTS.filter(([fault]) => !faults.instruments.includes(fault))]}
        />
        {any && <Button onClick={() => set({ clear: true })}>Clear all faults</Button>}
      </div>
    </section>
  );
}
