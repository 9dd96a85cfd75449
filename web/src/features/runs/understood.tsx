import type { Schemas } from "@/api/client";

type Segment = Schemas["Segment"];

/** Under the line: how it was read, and what was not and why. */
export function Understood({
  segments,
  notYet,
  onChoose,
}: {
  segments: Segment[];
  /** Why it cannot be logged yet, shown once Enter was tried. */
  notYet: string | null;
  onChoose: (line: string) => void;
}) {
  const read = segments.filter((segment) => segment.kind === "reading" || segment.kind === "note");
  const asks = segments.filter((segment) => segment.kind === "wrong" || segment.kind === "unclear");
  return (
    <div id="understood" className="min-h-[22px] pt-1.5 text-[13.5px]">
      {read.length > 0 && <span className="num text-ink2">{read.map((segment) => segment.says).join("  ·  ")}</span>}
      {asks.map((segment, i) => (
        <div
          key={i}
          role="alert"
          className={`mt-1 flex flex-wrap items-center gap-2 font-semibold ${segment.kind === "wrong" ? "text-stop" : "text-ochre"}`}
        >
          <span>{segment.says}</span>
          {segment.choices.map((choice) => (
            <button
              key={choice.line}
              type="button"
              className="num rounded-md border border-ochre bg-sheet px-2.5 py-0.5 text-ink"
              onClick={() => onChoose(choice.line)}
            >
              {choice.label}
            </button>
          ))}
        </div>
      ))}
      {asks.length === 0 && notYet && (
        <p role="alert" className="mt-1 font-semibold text-stop">
          Not logged: {notYet}
        </p>
      )}
    </div>
  );
}
