import type { ReactNode } from "react";
import type { Schemas } from "@/api/client";
import { Figure } from "@/ui/figure";
import { Kbd } from "@/ui/kbd";
import type { Cell, Place, Rung } from "../ladder/place";
import { RungForm } from "../ladder/rung-form";

const LIMITS: Record<Cell["mode"], string> = {
  certified: "up to the distortion limit",
  clipping: "past the limit",
  dynamic: "a burst",
};

/** One thing to do, said large; what to expect; what is set for the rung. */
export function RunHead({
  rung,
  cell,
  sessionId,
  revision,
  setting,
  setSetting,
  onMoved,
}: {
  rung: Rung;
  cell: Cell;
  sessionId: string;
  revision: number;
  setting: boolean;
  setSetting: (on: boolean) => void;
  onMoved: (place: Place) => void;
}) {
  return (
    <>
      <div className="flex flex-wrap items-baseline gap-x-3.5">
        <h2 className="text-4xl leading-tight font-strong tracking-[-0.01em]" style={{ fontStretch: "112%" }}>
          {rung.label}, {cell.mode}
        </h2>
        <span className="text-lg text-ink2">
          {rung.words} · {LIMITS[cell.mode]}
        </span>
      </div>
      <Facts rung={rung} />
      {setting ? (
        <RungForm
          sessionId={sessionId}
          rung={rung}
          revision={revision}
          onDone={(key) => {
            setSetting(false);
            if (key !== null && key !== rung.key) onMoved({ rung: key, mode: cell.mode });
          }}
        />
      ) : (
        <SetLine rung={rung} cell={cell} onOpen={() => setSetting(true)} />
      )}
    </>
  );
}

function Facts({ rung }: { rung: Rung }) {
  const { expected } = rung;
  const none = <span className="text-body font-normal text-ink3">not known</span>;
  const figure = (data: Schemas["Figure"], className = "") => <Figure figure={data} className={className} />;
  return (
    <div className="mt-2.5 grid grid-cols-2 rounded-lg border border-line bg-sheet xl:grid-cols-4">
      <Fact name="Claim to prove">
        {rung.claim ?? <span className="font-sans text-body font-normal text-ink3">none for this load</span>}
      </Fact>
      <Fact name="Draw to expect">
        {expected ? (
          <span>
            {figure({ ...expected.low_a, unit: "" })}
            <span className="px-1 font-sans text-body font-normal text-ink2">to</span>
            {figure(expected.high_a, expected.past_fuses ? "text-stop" : "")}
          </span>
        ) : (
          none
        )}
      </Fact>
      <Fact name="Amplifier fuses">{expected?.fuses_a ? figure(expected.fuses_a, expected.past_fuses ? "text-stop" : "") : none}</Fact>
      <Fact name="Heat in the loads">{expected ? figure(expected.load_w) : none}</Fact>
    </div>
  );
}

function Fact({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="min-w-0 border-hair px-3.5 py-2 odd:border-r xl:border-r xl:last:border-r-0">
      <small className="block text-sm text-ink2">{name}</small>
      <b className="num block text-xl leading-snug font-semibold whitespace-nowrap">{children}</b>
    </div>
  );
}

function SetLine({ rung, cell, onOpen }: { rung: Rung; cell: Cell; onOpen: () => void }) {
  const { set } = rung;
  const words = [
    set.rest_v == null ? "rest voltage not set" : `rest ${set.rest_v.toFixed(2)} V`,
    set.load_measured_ohm == null ? "load not measured" : `load ${String(set.load_measured_ohm)} Ω`,
    `${String(set.tone_hz)} Hz`,
    set.charger_on == null ? "charger not noted" : set.charger_on ? "charger on" : "charger off",
    set.bank == null ? null : `bank ${set.bank}`,
    `${String(cell.extra_drive_db)} dB extra drive`,
  ];
  return (
    <div className="mt-2 flex flex-wrap items-center gap-x-3 text-note text-ink2">
      <span>{words.filter((word) => word !== null).join(" · ")}</span>
      <button
        type="button"
        className="flex items-center gap-1.5 rounded px-1 py-0.5 font-semibold text-ink underline underline-offset-3 hover:bg-hair"
        onClick={onOpen}
      >
        Set <Kbd>S</Kbd>
      </button>
    </div>
  );
}
