import { Popover } from "radix-ui";
import type { Schemas } from "@/api/client";
import { cn } from "./cn";

type FigureData = Schemas["Figure"];

/** A computed figure: click or Enter opens how it was made. */
export function Figure({
  figure,
  className = "",
  unit = true,
  plusMinus = false,
}: {
  figure: FigureData;
  className?: string;
  /** Show its unit behind it. */
  unit?: boolean;
  /** Show its ± behind it. */
  plusMinus?: boolean;
}) {
  const { working } = figure;
  return (
    <Popover.Root>
      <Popover.Trigger
        className={cn("num rounded-sm whitespace-nowrap decoration-edge decoration-dotted underline-offset-4 hover:underline", className)}
      >
        {figure.text}
        {unit && figure.unit && <span className="text-unit font-normal text-ink2">{`\u202f${figure.unit}`}</span>}
        {plusMinus && figure.plus_minus && (
          <span className="ml-1.5 text-[max(0.65em,11px)] font-normal text-ink2">± {figure.plus_minus}</span>
        )}
        <span className="sr-only no-print">, {working.title}: open its working</span>
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={6}
          collisionPadding={12}
          aria-label={`Working: ${working.title}`}
          className="z-50 max-h-[var(--radix-popover-content-available-height)] w-[380px] max-w-[calc(100vw-24px)] overflow-auto rounded-lg border border-edge bg-sheet p-4 text-ink shadow-lg"
        >
          <WorkingBody working={working} result={`${figure.text} ${figure.unit}`} />
          <Popover.Arrow className="fill-edge" />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

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
    <details className="rounded border border-line [&[open]>summary]:border-b [&[open]>summary]:border-hair">
      <summary className="cursor-pointer px-2.5 py-1.5 text-note font-semibold">
        {working.title}
        {run && <span className="font-normal text-ink2">, {run.what}</span>}
      </summary>
      <div className="p-2.5">
        <WorkingBody working={working} />
      </div>
    </details>
  );
}
