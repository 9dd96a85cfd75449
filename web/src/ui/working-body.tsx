import type { Schemas } from "@/api/client";
import { Disclosure } from "./disclosure";

/** How a figure was made: formula, the numbers put in, assumptions, source. */
export function WorkingBody({ working, result }: { working: Schemas["Working"]; result?: string }) {
  return (
    <div className="grid gap-2.5">
      <div className="flex items-baseline justify-between gap-3">
        <b className="font-bold">{working.title}</b>
        {result !== undefined && <span className="num text-lg font-semibold whitespace-nowrap">{result}</span>}
      </div>
      <p className="num rounded bg-paper px-2.5 py-1.5">{working.formula}</p>
      <dl className="grid grid-cols-[auto_1fr_auto] gap-x-3 gap-y-1 text-note">
        {working.inputs.map((input) => (
          <div key={input.symbol + input.what} className="contents">
            <dt className="num font-semibold">{input.symbol}</dt>
            <dd className="text-ink2">{input.what}</dd>
            <dd className="num text-right whitespace-nowrap">{input.value}</dd>
          </div>
        ))}
      </dl>
      {working.assumptions.length > 0 && (
        <ul className="grid gap-1 border-l-[3px] border-ochre pl-2.5 text-note">
          {working.assumptions.map((assumption) => (
            <li key={assumption}>{assumption}</li>
          ))}
        </ul>
      )}
      <p className="border-t border-hair pt-2 text-sm text-ink2">{working.source}</p>
      {working.from?.map((made, i) => (
        <Beneath key={i} working={made} />
      ))}
    </div>
  );
}

/** How a number that was put in was made itself: down to the readings. */
function Beneath({ working }: { working: Schemas["Working"] }) {
  const run = working.inputs.find((input) => input.symbol === "run");
  return (
    <Disclosure
      className="rounded border border-line px-2 py-1.5 text-note"
      says={
        <>
          <b className="font-semibold">{working.title}</b>
          {run && <span className="text-ink2">, {run.what}</span>}
        </>
      }
    >
      <div className="mt-1.5 border-t border-hair pt-2">
        <WorkingBody working={working} />
      </div>
    </Disclosure>
  );
}
