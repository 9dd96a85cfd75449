import { lazy, Suspense } from "react";
import { Button } from "@/ui/button";
import { Kbd } from "@/ui/kbd";
import type { Place, Rung } from "../ladder/place";
import { BeforeRow } from "./before-row";

const RungForm = lazy(async () => ({ default: (await import("../ladder/rung-form")).RungForm }));

/** What is set for the load at hand: rest voltage, the load as measured, charger, bank. */
export function BenchRow({
  rung,
  sessionId,
  revision,
  setting,
  setSetting,
  onMoved,
}: {
  rung: Rung;
  sessionId: string;
  revision: number;
  setting: boolean;
  setSetting: (on: boolean) => void;
  /** Its tone was set, and its key holds the tone. */
  onMoved: (rung: Place["rung"]) => void;
}) {
  const { set } = rung;
  const words = [
    set.rest_v == null ? "rest voltage not set" : `rest ${set.rest_v.toFixed(2)} V`,
    set.load_measured_ohm == null ? "load not measured" : `load ${String(set.load_measured_ohm)} Ω`,
    set.charger_on == null ? "charger not noted" : set.charger_on ? "charger on" : "charger off",
    set.bank == null ? null : `bank ${set.bank}`,
  ];
  return (
    <BeforeRow
      name="Bench"
      action={
        !setting && (
          <Button size="compact" onClick={() => setSetting(true)}>
            Set <Kbd>S</Kbd>
          </Button>
        )
      }
      more={
        setting && (
          <Suspense>
            <RungForm
              sessionId={sessionId}
              rung={rung}
              revision={revision}
              onDone={(key) => {
                setSetting(false);
                if (key !== null && key !== rung.key) onMoved(key);
              }}
            />
          </Suspense>
        )
      }
    >
      {words.filter((word) => word !== null).join(", ")}
    </BeforeRow>
  );
}
