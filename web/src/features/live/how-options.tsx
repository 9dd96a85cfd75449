import { ChoiceField } from "@/ui/choice";
import { TextField } from "@/ui/field";
import { HOW, type How } from "./how";

/** The ways in which the run at hand can be driven. */
export function HowOptions({
  how,
  offered,
  setHow,
  steps,
  setSteps,
}: {
  how: How;
  offered: How[];
  setHow: (how: How) => void;
  steps: string;
  setSteps: (levels: string) => void;
}) {
  return (
    <div className="grid gap-2">
      <ChoiceField quiet label="How" value={how} onChoose={(next) => setHow(next as How)} options={offered.map((one) => [one, HOW[one]])} />
      {how === "steps" && <TextField label="Levels, dB, lowest first" value={steps} onChange={(event) => setSteps(event.target.value)} />}
    </div>
  );
}
