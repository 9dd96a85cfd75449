import { Download } from "lucide-react";
import { ChoiceField, optionsOf, type Option } from "@/ui/choice";
import { TextField } from "@/ui/field";
import { Tip } from "@/ui/tip";
import { SHAPES, toneAddress, type ShapeName, type Tone } from "./tone";

const CYCLES: readonly Option[] = ["20", "8", "1"].map((count) => [count, count]);

const FORMATS: readonly Option[] = ["44100", "48000", "96000"].flatMap((hz) =>
  ["16", "24"].map((depth) => [`${hz}-${depth}`, `${String(Number(hz) / 1000)} kHz, ${depth} bit`] as const),
);

/** Another tone than the usual one, and the tone as a file. */
export function ToneOptions({ tone, hz, set }: { tone: Tone; hz: number; set: (change: Partial<Tone>) => void }) {
  const [rate = "48000", bits = "24"] = tone.format.split("-");
  const file = { rate, bits, seconds: tone.shape === "steps" ? "5" : "60" };
  return (
    <div className="mt-1 mb-1.5 flex flex-wrap items-end gap-x-3 gap-y-2 rounded-md border border-line bg-sheet px-3 py-2">
      <ChoiceField
        label="Shape"
        className="w-[158px]"
        value={tone.shape}
        onChoose={(shape) => set({ shape: shape as ShapeName })}
        options={optionsOf(SHAPES)}
      />
      {tone.shape === "counted" && (
        <ChoiceField label="Cycles" className="w-[70px]" value={tone.cycles} onChoose={(cycles) => set({ cycles })} options={CYCLES} />
      )}
      <TextField
        label="Level, dBFS"
        className="w-[84px]"
        inputMode="numeric"
        value={tone.level}
        onChange={(event) => set({ level: event.target.value })}
      />
      <ChoiceField label="File" className="w-[150px]" value={tone.format} onChoose={(format) => set({ format })} options={FORMATS} />
      <a
        className="flex items-center gap-1.5 rounded px-1 py-2 font-semibold underline underline-offset-3 hover:bg-hair"
        href={toneAddress(tone, hz, file)}
        download
      >
        <Download size={15} aria-hidden /> Save as WAV
      </a>
      <Tip says="Two channels, the right one inverted: for bridged and strapped outputs">
        <a
          className="rounded px-1 py-2 underline underline-offset-3 hover:bg-hair"
          href={toneAddress(tone, hz, { ...file, sides: "against" })}
          download
        >
          Save with one side inverted
        </a>
      </Tip>
    </div>
  );
}
