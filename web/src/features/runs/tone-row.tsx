import { Play, Square } from "lucide-react";
import { lazy, Suspense, useEffect, useState } from "react";
import { Button } from "@/ui/button";
import { Kbd } from "@/ui/kbd";
import { useKeys } from "@/ui/use-keys";
import type { Cell, Rung } from "../ladder/place";
import { BeforeRow } from "./before-row";
import { levelOf, SHAPES, toneAddress, type Tone } from "./tone";
import { play, stop } from "./tone-audio";
import { More } from "@/ui/more";

const ToneOptions = lazy(async () => ({ default: (await import("./tone-options")).ToneOptions }));

/** The tone that the run at hand needs: named, played, or saved as WAV. */
export function ToneRow({ rung, cell }: { rung: Rung; cell: Cell }) {
  const [tone, setTone] = useState<Tone>({
    shape: cell.mode === "dynamic" ? "burst" : "sine",
    level: "-6",
    cycles: "20",
    format: "48000-24",
  });
  const [opened, setOpened] = useState(false);
  const [on, setOn] = useState(false);
  const [says, setSays] = useState<string | null>(null);
  useEffect(() => stop, []);
  const hz = rung.set.tone_hz;
  const toggle = () => {
    setSays(null);
    setOn(!on);
    if (on) return stop();
    play(toneAddress(tone, hz, { loop: "true", bits: "24" })).catch((error: unknown) => {
      setOn(false);
      setSays((error as Error).message);
    });
  };
  useKeys({ o: toggle });
  return (
    <BeforeRow
      name="Tone"
      action={
        <Button size="compact" aria-pressed={on} className={on ? "bg-copper-wash" : ""} onClick={toggle}>
          {on ? <Square size={14} aria-hidden /> : <Play size={14} aria-hidden />} {on ? "Stop" : "Play"} <Kbd>O</Kbd>
        </Button>
      }
      more={
        <>
          {opened && (
            <Suspense>
              <ToneOptions tone={tone} hz={hz} set={(change) => setTone({ ...tone, ...change })} />
            </Suspense>
          )}
          {on && (
            <p className="mb-1 text-note text-ochre">No speaker on the bench during runs: these levels damage hearing and speakers.</p>
          )}
          {says && <p role="alert">{says}</p>}
        </>
      }
    >
      <b className="font-semibold">{String(hz)} Hz</b>, {SHAPES[tone.shape]}, {String(levelOf(tone)).replace("-", "−")} dBFS,{" "}
      {String(cell.extra_drive_db)} dB extra drive <More opened={opened} words="change or save" onToggle={() => setOpened(!opened)} />
    </BeforeRow>
  );
}
