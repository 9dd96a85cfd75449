import { api, data, type Schemas } from "@/api/client";
import { queries, useWrite } from "@/api/queries";
import { ChoiceField } from "@/ui/choice";
import { useNotice } from "@/ui/notice";
import { StandInFaults } from "./stand-in-faults";

const STATES: Record<string, string> = {
  ON: "on",
  OVERCURRENT: "in protection: overcurrent",
  OVERHEAT: "in protection: overheated",
  FUSE: "fuse open",
  DEAD: "dead",
};

/** The demo's stand-in bench: which amplifier is on it, and what is wrong with it. */
export function StandInCard() {
  const { tell } = useNotice();
  const { data: view } = queries.useQuery("get", "/api/stand-in", {}, { refetchInterval: 2_000 });
  const change = useWrite((body: Schemas["StandInChange"]) => data(api.PUT("/api/stand-in", { body })));
  if (!view?.there) return null;
  const set = (body: Schemas["StandInChange"]) => change.mutate(body, { onError: (error) => tell({ says: error.message, look: "stop" }) });
  const on = view.amplifiers.find((one) => one.key === view.amplifier);
  return (
    <section aria-label="Stand-in bench" className="mt-4 rounded-lg border border-copper bg-sheet px-4 py-3">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 className="wide text-lg font-bold">The stand-in bench</h2>
        <span className="text-ink2">
          {STATES[view.state ?? ""] ?? view.state} · heatsink {view.heatsink_c?.toFixed(0)} °C
        </span>
      </div>
      <p className="text-ink2">An amplifier, a bank, loads and meters, all simulated: practise on it. Its loads follow the run.</p>
      <div className="mt-2 grid items-end gap-3 sm:grid-cols-[300px_1fr]">
        <ChoiceField
          label="Amplifier on it"
          value={view.amplifier ?? ""}
          onChoose={(amplifier) => set({ amplifier })}
          options={view.amplifiers.map((one) => [
            one.key,
            `${one.name}, ${one.outputs === 1 ? "mono" : `${String(one.outputs)} channels`}`,
          ])}
        />
        <p className="pb-1.5">{on?.teaches}.</p>
      </div>
      <StandInFaults faults={view.faults} set={set} />
    </section>
  );
}
