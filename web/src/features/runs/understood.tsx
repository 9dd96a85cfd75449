import type { Schemas } from "@/api/client";

type Segment = Schemas["Segment"];

/** Why nothing was logged is never below the edge of the screen. */
const intoSight = (at: HTMLElement | null) => at?.scrollIntoView({ block: "nearest" });

/** Under the line: how it was read, and what was not and why. */
export function Understood({
  segments,
  notYet,
  unread,
  stale,
  asksAgain,
  doubts,
  place,
  onChoose,
}: {
  segments: Segment[];
  /** Why it was not logged, said once Enter was tried. */
  notYet: string | null;
  /** Why it could not be read. */
  unread: string | null;
  /** The program is not heard: what is shown may belong to an older line. */
  stale: boolean;
  /** Something is doubted, and a second Enter passes over it. */
  asksAgain: boolean;
  /** Those doubts that are not shown under the line anyhow. */
  doubts: string[];
  /** Where it would be logged: wiring, load, mode. */
  place: string;
  onChoose: (line: string) => void;
}) {
  const read = segments.filter((segment) => segment.kind === "reading" || segment.kind === "note");
  const asks = segments.filter((segment) => segment.kind === "wrong" || segment.kind === "unclear");
  return (
    <div id="understood" data-stale={stale || undefined} className="min-h-[28px] px-4 pt-1.5 text-step metre:min-h-[44px] metre:text-2xl">
      {read.length > 0 && (
        <span className={`num text-ink2 ${stale ? "opacity-60" : ""}`}>{read.map((segment) => segment.says).join("  ·  ")}</span>
      )}
      {stale && read.length > 0 && <b className="ml-3 font-semibold text-ochre">not up to date</b>}
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
      {unread && (
        <p role="status" className="mt-1 font-semibold text-ochre">
          Not read: {unread}
        </p>
      )}
      {asksAgain ? (
        <div ref={intoSight} role="alert" className="mt-1 rounded-md bg-ochre-wash px-3 py-2">
          <b>Not logged yet: {place}.</b> Is that what the meters say? Press Enter again to log it.
          <ul className="mt-0.5 grid gap-0.5">
            {doubts.map((doubt) => (
              <li key={doubt}>{doubt}</li>
            ))}
          </ul>
        </div>
      ) : (
        asks.length === 0 &&
        notYet && (
          <p ref={intoSight} role="alert" className="mt-1 font-semibold text-stop">
            Not logged: {notYet}
          </p>
        )
      )}
    </div>
  );
}
