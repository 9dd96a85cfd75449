import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { queries } from "@/api/queries";
import { Button } from "@/ui/button";
import { Empty, Failed, Loading } from "@/ui/states";
import { day } from "@/ui/dates";

const WORDS: Record<Schemas["Incident"], string> = { protection: "Protection", fuse: "Fuse", smoke: "Smoke", died: "Died" };

/** What went wrong on this bench, across all amplifiers: the newest first. */
export function IncidentsPage() {
  const asked = queries.useInfiniteQuery(
    "get",
    "/api/incidents",
    {},
    { pageParamName: "after", initialPageParam: null, getNextPageParam: (page: Schemas["Incidents"]) => page.next ?? undefined },
  );
  const { data: pages, error, refetch, hasNextPage, fetchNextPage, isFetchingNextPage } = asked;
  const rows = pages?.pages.flatMap((page) => page.incidents);
  if (error) return <Failed error={error} retry={() => void refetch()} />;
  if (!rows) return <Loading />;
  return (
    <main className="mx-auto w-full max-w-[1080px] px-4 py-6 sm:px-8">
      <h1 className="wide text-3xl font-bold">Incidents</h1>
      <p className="mt-1 text-ink2">What went into protection, blew a fuse, smoked or died on this bench, with its load and voltage.</p>
      {rows.length === 0 ? (
        <div className="mt-4">
          <Empty title="No incident yet.">
            <p>At the bench, X logs what went wrong, with load, mode and volts filled in.</p>
          </Empty>
        </div>
      ) : (
        <ul className="mt-4 grid rounded-lg border border-line bg-sheet">
          {rows.map((row) => (
            <li
              key={row.run_id}
              className="grid gap-x-5 gap-y-0.5 border-t border-hair px-4 py-3 first:border-t-0 sm:grid-cols-[110px_1fr_auto]"
            >
              <b className={`font-bold ${row.incident === "died" || row.incident === "smoke" ? "text-stop" : "text-ochre"}`}>
                {WORDS[row.incident]}
              </b>
              <span className="min-w-0">
                <Link to={`/amplifiers/${row.amplifier_id}/runs`} className="font-semibold underline underline-offset-3">
                  {row.amplifier}
                </Link>
                <span className="block">
                  {row.says}
                  {row.ungated && " Run past a gate without a full reason."}
                </span>
                {row.note && <span className="block text-ink2">{row.note}</span>}
                {row.seen_to && <span className="block text-ink2">Continued: {row.seen_to}</span>}
              </span>
              <time className="num text-note text-ink2" dateTime={row.at}>
                {day(row.at)}
              </time>
            </li>
          ))}
        </ul>
      )}
      {hasNextPage && (
        <Button className="mt-4" disabled={isFetchingNextPage} onClick={() => void fetchNextPage()}>
          Show earlier incidents
        </Button>
      )}
    </main>
  );
}
