import { lazy } from "react";
import type { Schemas } from "@/api/client";
import { cn } from "./cn";
import { Opens } from "./opens";

const WorkingBody = lazy(async () => ({ default: (await import("./working-body")).WorkingBody }));

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
    <Opens
      label={`Working: ${working.title}`}
      className={cn("num rounded-sm whitespace-nowrap decoration-edge decoration-dotted underline-offset-4 hover:underline", className)}
      shows={() => <WorkingBody working={working} result={`${figure.text} ${figure.unit}`} />}
    >
      <span key={figure.text}>
        {figure.text}
        {unit && figure.unit && <span className="text-unit font-normal text-ink2">{`\u202f${figure.unit}`}</span>}
        {plusMinus && figure.plus_minus && (
          <span className="ml-1.5 text-[max(0.65em,12px)] font-normal text-ink2">± {figure.plus_minus}</span>
        )}
      </span>
      <span className="sr-only no-print">, {working.title}: open its working</span>
    </Opens>
  );
}
