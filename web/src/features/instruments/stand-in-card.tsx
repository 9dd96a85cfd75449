import { useState } from "react";
import { api, data, type Schemas } from "@/api/client";
import { queries, useWrite } from "@/api/queries";
import { Check } from "@/ui/check";
import { ChoiceField } from "@/ui/field";
import { useNotice } from "@/ui/notice";

const STATES: Record<string, string> = {
  ON: "on",
  OVERCURRENT: "protecting itself: too much current",
  OVERHEAT: "protecting itself: too hot",
  FUSE: "a fuse opened",
  DEAD: "dead",
};

const FAULTS = ["none", "voltmeter,DROP", "voltmeter,STALL", "analyser,GARBAGE", "analyser,OVERLOAD", "ammeter,UNITS", "generator,DROP"];

/** The demo's stand-in bench: which amplifier is on it, and what is wrong with it. */
export function StandInCard() {
  const { tell } = useNotice();
  const [faults, setFaults] = useState({ charger: false, loads: false, clamp: false, link: "none" });
  const { data: view } = queries.useQuery("get", "/api/stand-in", {}, { refetchInterval: 2_000 });
  const change = useWrite((body: Schemas["StandInChange"]) => data(api.PUT("/api/stand-in", { body })));
  if (!view?.there) return null;
  const set = (body: Schemas["StandInChange"]) => change.mutate(body, { onError: (error) => tell({ says: error.message, look: "stop" }) });
  const on = view.amplifiers.find((one) => one.key === view.amplifier);
  const links = (next: string) => {
    const [before] = faults.link.split(",");
    if (before && before !== "none") set({ fault: `${before},NONE` });
    if (next !== "none") set({ fault: next });
    setFaults({ ...faults, link: next });
  };
  return (
    <section aria-label="Stand-in bench" className="mt-4 rounded-lg border border-copper bg-sheet px-4 py-3">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 className="wide text-lg font-bold">The stand-in bench</h2>
        <span className="text-ink2">
          {STATES[view.state ?? ""] ?? view.state} · heatsink {view.heatsink_c?.toFixed(0)} °C
        </span>
      </div>
      <p className="text-ink2">An amplifier, a bank, loads and meters that are only reckoned: practise on it. Its loads follow the run.</p>
      <div className="mt-2 grid items-end gap-3 sm:grid-cols-[300px_1fr]">
        <ChoiceField label="Amplifier on it" value={view.amplifier ?? ""} onChange={(event) => set({ amplifier: event.target.value })}>
          {view.amplifiers.map((one) => (
            <option key={one.key} value={one.key}>
              {one.name}, {one.outputs === 1 ? "mono" : `${String(one.outputs)} channels`}
            </option>
          ))}
        </ChoiceField>
        <p className="pb-1.5">{on?.teaches}.</p>
      </div>
      <div className="mt-2.5 flex flex-wrap items-center gap-x-5 gap-y-2 text-step">
        <span className="text-ink2">Something wrong with it:</span>
        <Check
          label="charger left on"
          checked={faults.charger}
          onChange={(yes) => {
            set({ charger_on: yes });
            setFaults({ ...faults, charger: yes });
          }}
        />
        <Check
          label="load switch a step low"
          checked={faults.loads}
          onChange={(yes) => {
            set({ load_switch_wrong: yes });
            setFaults({ ...faults, loads: yes });
          }}
        />
        <Check
          label="clamp reads half"
          checked={faults.clamp}
          onChange={(yes) => {
            set({ clamp_factor: yes ? 0.5 : 1 });
            setFaults({ ...faults, clamp: yes });
          }}
        />
        <label className="flex items-center gap-2">
          link
          <select
            className="rounded-md border border-edge bg-field px-2 py-1"
            value={faults.link}
            onChange={(event) => links(event.target.value)}
          >
            {FAULTS.map((fault) => (
              <option key={fault} value={fault}>
                {fault.replace(",", ": ").toLowerCase()}
              </option>
            ))}
          </select>
        </label>
      </div>
    </section>
  );
}
