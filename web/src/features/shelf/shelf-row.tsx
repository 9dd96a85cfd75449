import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { TONES } from "@/ui/tones";

type Item = Schemas["ShelfItem"];

/** One amplifier: who made it, how far it is, its headline claim against what was read. */
export function ShelfRow({ item, chosen }: { item: Item; chosen: boolean }) {
  const { summary } = item;
  return (
    <Link
      to={`/amplifiers/${item.id}/claims`}
      aria-current={chosen ? "true" : undefined}
      className={`grid h-full grid-cols-[1fr_auto] content-center items-center gap-x-6 px-4 leading-tight hover:bg-verdigris-wash md:grid-cols-[minmax(240px,1.3fr)_minmax(180px,1fr)_200px_90px] ${chosen ? "bg-verdigris-wash" : "bg-sheet"}`}
    >
      <span className="min-w-0">
        <b className="block truncate font-firm">{summary.name}</b>
        <small className="block truncate text-sm text-ink2 max-md:hidden">{summary.subtitle}</small>
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
    </Link>
  );
}
