import { Download, Play, Square } from "lucide-react";
import { useEffect, useState } from "react";
import { ChoiceField, TextField } from "@/ui/field";
import { Kbd } from "@/ui/kbd";
import { readNumber } from "@/ui/numbers";
import { useKeys } from "@/ui/use-keys";
import type { Cell, Rung } from "../ladder/place";
import { play, stop } from "./tone-audio";

const SHAPES = { sine: "sine", burst: "standard burst", counted: "counted cycles", steps: "level steps" } as const;
type ShapeName = keyof typeof SHAPES;

const USUAL_DBFS = -6;

/** A number that may still be half typed: nothing then. */
function halfTyped(text: string): number | null {
  try {
    return readNumber(text.replace("−", "-"));
  } catch {
    return null;
  }
}

/** The tone that the run at hand needs: named, played, or saved as WAV. */
export function ToneStrip({ rung, cell }: { rung: Rung; cell: Cell }) {
  const [shape, setShape] = useState<ShapeName>(cell.mode === "dynamic" ? "burst" : "sine");
  const [level, setLevel] = useState("-6");
  const [cycles, setCycles] = useState("20");
  const [format, setFormat] = useState("48000-24");
  const [opened, setOpened] = useState(false);
  const [on, setOn] = useState(false);
  const [says, setSays] = useState<string | null>(null);
  useEffect(() => stop, []);
  const typed = halfTyped(level);
  const [rate = "48000", bits = "24"] = format.split("-");
  const query = new URLSearchParams({ hz: String(rung.set.tone_hz), level: String(typed ?? USUAL_DBFS), shape });
  if (shape === "counted") query.set("cycles", cycles);
  const address = (more: Record<string, string>) => `/api/tones.wav?${query.toString()}&${new URLSearchParams(more).toString()}`;
  const toggle = () => {
    setSays(null);
    if (on) {
      stop();
      setOn(false);
      return;
    }
    setOn(true);
    play(address({ loop: "true", bits: "24" })).catch((error: unknown) => {
      setOn(false);
      setSays((error as Error).message);
    });
  };
  useKeys({ o: toggle });
  const open = () => setOpened(!opened);
  return (
    <section aria-label="Tone" className="mt-1.5 text-note">
      <div className="flex flex-wrap items-center gap-x-3 text-ink2">
        <button
          type="button"
          aria-pressed={on}
          className={`flex items-center gap-1.5 rounded px-1.5 py-0.5 font-semibold text-ink ${on ? "bg-copper-wash" : "hover:bg-hair"}`}
          onClick={toggle}
        >
          {on ? <Square size={14} aria-hidden /> : <Play size={14} aria-hidden />} {on ? "Stop" : "Play"} the tone <Kbd>O</Kbd>
        </button>
        <span>
          {String(rung.set.tone_hz)} Hz, {SHAPES[shape]}, {String(typed ?? USUAL_DBFS)} dBFS
        </span>
        <button
          type="button"
          aria-expanded={opened}
          className="rounded px-1 py-0.5 font-semibold text-ink underline underline-offset-3 hover:bg-hair"
          onClick={open}
        >
          {opened ? "Done" : "Change or save"}
        </button>
      </div>
      <div
        className={opened ? "mt-1.5 flex flex-wrap items-end gap-x-3 gap-y-2 rounded-lg border border-line bg-sheet px-3.5 py-2" : "hidden"}
      >
        <ChoiceField label="Shape" className="w-[150px]" value={shape} onChange={(event) => setShape(event.target.value as ShapeName)}>
          {Object.entries(SHAPES).map(([name, word]) => (
            <option key={name} value={name}>
              {word}
            </option>
          ))}
        </ChoiceField>
        {shape === "counted" && (
          <ChoiceField label="Cycles" className="w-[70px]" value={cycles} onChange={(event) => setCycles(event.target.value)}>
            <option>20</option>
            <option>8</option>
            <option>1</option>
          </ChoiceField>
        )}
        <TextField
          label="Level, dBFS"
          className="w-[84px]"
          inputMode="numeric"
          value={level}
          onChange={(event) => setLevel(event.target.value)}
        />
        <ChoiceField label="File" className="w-[140px]" value={format} onChange={(event) => setFormat(event.target.value)}>
          {["44100", "48000", "96000"].flatMap((hz) =>
            ["16", "24"].map((depth) => (
              <option key={hz + depth} value={`${hz}-${depth}`}>{`${String(Number(hz) / 1000)} kHz, ${depth} bit`}</option>
            )),
          )}
        </ChoiceField>
        <a
          className="flex items-center gap-1.5 rounded px-1 py-2 font-semibold underline underline-offset-3 hover:bg-hair"
          href={address({ rate, bits, seconds: shape === "steps" ? "5" : "60" })}
          download
        >
          <Download size={15} aria-hidden /> Save as WAV
        </a>
      </div>
      {on && <p className="mt-1 text-ochre">No speaker on the bench during runs: these levels damage hearing, and speakers.</p>}
      {says && <p role="alert">{says}</p>}
    </section>
  );
}
