import { memo, type ReactNode } from "react";
import type { Schemas } from "@/api/client";
import { Figure } from "@/ui/figure";
import type { Rung } from "../ladder/place";

/** What to expect of the run at hand. It is not drawn anew with every key. */
export const Facts = memo(function Facts({ rung }: { rung: Rung }) {
  const { expected } = rung;
  const none = <span className="font-sans text-body font-normal text-ink3">not known</span>;
  const figure = (data: Schemas["Figure"], className = "") => <Figure figure={data} className={className} />;
  return (
    <div className="mt-3 grid grid-cols-2 rounded-lg border border-line bg-sheet metre:hidden xl:grid-cols-4">
      <Fact name="Claim to prove">
        {rung.claim ?? <span className="font-sans text-body font-normal text-ink3">none for this load</span>}
      </Fact>
      <Fact name="Expected draw">
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
      <Fact name="Power into loads">{expected ? figure(expected.load_w) : none}</Fact>
    </div>
  );
});

function Fact({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="min-w-0 border-hair px-3.5 py-[7px] odd:border-r xl:border-r xl:last:border-r-0">
      <small className="block text-sm text-ink2">{name}</small>
      <b className="num block text-xl leading-snug font-semibold whitespace-nowrap">{children}</b>
    </div>
  );
}
