import { useState, type KeyboardEvent } from "react";
import { useMutation } from "@tanstack/react-query";
import type { UseFormReturn } from "react-hook-form";
import { api, data, Refusal, type Schemas } from "@/api/client";
import { Button } from "@/ui/button";
import { ChoiceField } from "@/ui/choice";
import { TextField } from "@/ui/field";
import { readNumber } from "@/ui/numbers";
import { wiringKey, wiringOf, wiringWords, type Wiring } from "@/ui/wirings";
import { loadsOf, stepsOf, type BenchFields } from "./bench-fields";
import { Builds } from "./builds";

const WIRINGS: Wiring[] = [{ kind: "mono" }, ...[2, 3, 4, 5, 6, 8].map((driven): Wiring => ({ kind: "channels", driven }))];

/** Which loads these resistors and steps make: tried before anything is kept. */
export function TryLoad({ form }: { form: UseFormReturn<BenchFields> }) {
  const [load, setLoad] = useState("");
  const [outputs, setOutputs] = useState("mono");
  const [says, setSays] = useState<string | null>(null);
  const asked = useMutation({
    mutationFn: (body: Schemas["LoadRequest"]) => data(api.POST("/api/loads", { body })),
    onError: (error) => setSays(error instanceof Refusal && error.problems[0] ? error.problems[0].says : error.message),
  });
  const ask = () => {
    setSays(null);
    const loads = loadsOf(form.getValues(), form.setError);
    const step_box_ohm = stepsOf(form.getValues("steps"), form.setError);
    if (!loads || !step_box_ohm) return setSays("A resistor above cannot be read yet.");
    try {
      const ohm = readNumber(load, "Ω");
      if (ohm === null) return setSays("Which load?");
      asked.mutate({ wiring: wiringOf(outputs) ?? { kind: "mono" }, load_ohm: ohm, loads, step_box_ohm });
    } catch (error) {
      setSays((error as Error).message);
    }
  };
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key !== "Enter") return;
    event.preventDefault();
    ask();
  };
  return (
    <section aria-label="Which loads they make" className="grid gap-3 rounded-lg border border-line bg-sheet px-4 py-3.5">
      <h2 className="font-firm">Which loads they make</h2>
      <div className="flex flex-wrap items-start gap-3">
        <TextField
          label="Load wanted"
          unit="Ω"
          inputMode="decimal"
          className="w-[130px]"
          value={load}
          onChange={(event) => setLoad(event.target.value)}
          onKeyDown={onKeyDown}
        />
        <ChoiceField
          label="At"
          className="w-[170px]"
          value={outputs}
          onChoose={setOutputs}
          options={WIRINGS.map((wiring) => [
            wiringKey(wiring),
            wiring.kind === "mono" ? "one output" : wiringWords(wiring).replace("channels", "outputs"),
          ])}
        />
        <Button className="mt-[22px]" disabled={asked.isPending} onClick={ask}>
          Find it
        </Button>
      </div>
      {says && <p role="alert">{says}</p>}
      {asked.data && !says && <Builds answer={asked.data} />}
    </section>
  );
}
