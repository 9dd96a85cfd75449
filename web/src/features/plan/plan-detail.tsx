import { useState, type ReactNode } from "react";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/button";
import { Figure } from "@/ui/figure";
import { RungForm } from "../ladder/rung-form";
import { LoadsDialog } from "./loads-dialog";
import { useRung } from "./use-rung";

type Rung = Schemas["LadderRung"];

/** The rest of what a rung asks: of the loads, the leads, the amplifier; and what is set for it. */
export function PlanDetail({
  sessionId,
  rung,
  revision,
  target,
  frozen,
}: {
  sessionId: string;
  rung: Rung;
  revision: number;
  target: Schemas["Figure"] | undefined;
  frozen: boolean;
}) {
  const [setting, setSetting] = useState(false);
  const [loads, setLoads] = useState(false);
  const { change, pending } = useRung(sessionId, rung, revision);
  const { expected } = rung;
  const banks = expected?.load_banks ?? [];
  const mind = [...new Set(rung.cells.filter((cell) => cell.planned).flatMap((cell) => cell.mind))];
  const build = (found: Schemas["Build"]) =>
    change(
      { made_of: found.words, load_measured_ohm: Number(found.ohm.value.toFixed(3)) },
      `${rung.label} is made of ${found.words}.`,
      () => setLoads(false),
    );
  return (
    <div className="mt-3 grid gap-3 rounded-lg border border-line bg-sheet px-4 py-3">
      <dl className="grid gap-x-6 gap-y-2.5 sm:grid-cols-2 xl:grid-cols-3">
        {banks.length === 0 && (
          <Fact name="Load made of" under="none of this bench’s resistors make it, or none are entered">
            not known
          </Fact>
        )}
        {banks.map((bank) => (
          <Fact key={bank.group ?? ""} name={bank.group ? `${bank.group}: made of` : "Load made of"} under={bank.says} doubt={bank.warm}>
            {bank.words}, <Figure figure={bank.ohm} />
          </Fact>
        ))}
        {banks.map((bank) => (
          <Fact key={bank.group ?? ""} name="Hottest resistor" under={ratings(bank)} doubt={bank.warm}>
            up to <Figure figure={bank.hottest_w} />
          </Fact>
        ))}
        {target && (
          <Fact name="Volts to set for the claim" under="at each output, rms">
            <Figure figure={target} />
          </Fact>
        )}
        {expected && (
          <Fact name="Peak amps of an output" under={expected.proven_a ? undefined : "nothing proven yet"}>
            <Figure figure={expected.peak_a} />
            {expected.proven_a && (
              <>
                , it came through <Figure figure={expected.proven_a} />
              </>
            )}
          </Fact>
        )}
        {expected?.start_v && (
          <Fact name="Start that ends at the claim’s voltage">
            <Figure figure={expected.start_v} />
          </Fact>
        )}
        {expected?.leads.map((lead) => (
          <Fact key={lead.name} name={`Lead, ${lead.name}`} under="at the most draw">
            drops <Figure figure={lead.drop_v} />, turns <Figure figure={lead.heat_w} /> to heat
          </Fact>
        ))}
      </dl>
      {mind.length > 0 && (
        <ul className="grid gap-1 border-l-[3px] border-ochre pl-3 text-step">
          {mind.map((says) => (
            <li key={says}>{says}</li>
          ))}
        </ul>
      )}
      {setting ? (
        <RungForm sessionId={sessionId} rung={rung} revision={revision} onDone={() => setSetting(false)} />
      ) : (
        <div className="flex flex-wrap gap-2">
          {rung.wiring.kind !== "mixed" && (
            <Button size="low" disabled={frozen} onClick={() => setLoads(true)}>
              Make the load
            </Button>
          )}
          <Button size="low" disabled={frozen} onClick={() => setSetting(true)}>
            Tone, rest, drive
          </Button>
          {rung.set.modes.length > 0 ? (
            <Button look="quiet" size="low" disabled={frozen || pending} onClick={() => change({ modes: [] }, `${rung.label} left out.`)}>
              Leave it out
            </Button>
          ) : (
            <Button
              size="low"
              disabled={frozen || pending}
              onClick={() => change({ modes: ["certified", "clipping", "dynamic"] }, `${rung.label} put back.`)}
            >
              Put it back
            </Button>
          )}
        </div>
      )}
      {loads && (
        <LoadsDialog sessionId={sessionId} wiring={rung.wiring} loadOhm={rung.load_ohm} onChoose={build} onClose={() => setLoads(false)} />
      )}
    </div>
  );
}

function ratings(bank: Schemas["LoadBank"]): string | undefined {
  const parts = [
    bank.continuous_w && `${bank.continuous_w.text}\u202fW continuous`,
    bank.ten_second_w && `${bank.ten_second_w.text}\u202fW for ten seconds`,
  ].filter(Boolean);
  return parts.length > 0 ? `an output may give it ${parts.join(", ")}` : undefined;
}

function Fact({ name, under, doubt, children }: { name: string; under?: string | undefined; doubt?: boolean; children: ReactNode }) {
  return (
    <div>
      <dt className="text-sm text-ink2">{name}</dt>
      <dd className="text-body">
        {children}
        {under && <small className={`block text-sm ${doubt ? "font-semibold text-ochre" : "text-ink2"}`}>{under}</small>}
      </dd>
    </div>
  );
}
