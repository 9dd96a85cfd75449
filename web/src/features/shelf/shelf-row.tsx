import { Check as Tick } from "lucide-react";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { TONES } from "@/ui/tones";

type Item = Schemas["ShelfItem"];

/** Whether a row is chosen, to do something to several at once. */
export interface Choice {
  on: boolean;
  toggle: () => void;
}

/** One amplifier: who made it, how far it is, its headline claim against what was read. A press opens it, or chooses it. */
export function ShelfRow({ item, chosen, choice }: { item: Item; chosen: boolean; choice?: Choice | undefined }) {
  const lit = choice ? choice.on : chosen;
  const className = `grid h-full w-full grid-cols-[1fr_auto] content-center items-center gap-x-6 px-4 text-left leading-tight hover:bg-verdigris-wash md:grid-cols-[minmax(240px,1.3fr)_minmax(180px,1fr)_200px_90px] ${lit ? "bg-verdigris-wash" : "bg-sheet"}`;
  const row = <Columns item={item} choice={choice} />;
  if (choice) {
    return (
      <button
        type="button"
        role="checkbox"
        aria-checked={choice.on}
        aria-label={item.summary.name}
        className={className}
        onClick={choice.toggle}
      >
        {row}
      </button>
    );
  }
  return (
    <Link to={`/amplifiers/${item.id}/claims`} aria-current={chosen ? "true" : undefined} className={className}>
      {row}
    </Link>
  );
}

function Columns({ item: { summary }, choice }: { item: Item; choice: Choice | undefined }) {
  return (
    <>
      <span className="flex min-w-0 items-center gap-3">
        {choice && (
          <span
            aria-hidden
            className={`grid size-[18px] shrink-0 place-items-center rounded border ${choice.on ? "border-verdigris bg-verdigris" : "border-edge bg-field"}`}
          >
            {choice.on && <Tick size={14} strokeWidth={3} className="text-on-verdigris" />}
          </span>
        )}
        <span className="min-w-0">
          <b className="block truncate font-firm">{summary.name}</b>
          <small className="block truncate text-sm text-ink2 max-md:hidden">{summary.subtitle}</small>
        </span>
      </span>
      <span className={`text-right md:text-left ${TONES[summary.tone]}`}>{summary.state}</span>
      <span className="col-span-2 text-sm text-ink2 md:col-span-1">
        {summary.headline ? (
          <>
            {summary.headline_read && (
              <>
                <span className="num text-body font-semibold text-ink">{summary.headline_read}</span> of{" "}
              </>
            )}
            <span className="num text-base">{summary.headline}</span> claimed
          </>
        ) : (
          "no claim entered"
        )}
      </span>
      <span className="num hidden text-right text-ink2 md:block">{summary.price}</span>
    </>
  );
}
