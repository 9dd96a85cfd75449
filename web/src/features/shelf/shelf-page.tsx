import { keepPreviousData } from "@tanstack/react-query";
import { lazy, Suspense, useCallback, useEffect, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "@/api/client";
import { queries } from "@/api/queries";
import { buttonClass } from "@/ui/button";
import { Empty, Failed, Loading } from "@/ui/states";
import { useKeys } from "@/ui/use-keys";
import { useTitle } from "@/ui/use-title";
import { FindField } from "./find-field";
import { ShelfList } from "./shelf-list";
import { useShelfQuery } from "./shelf-query";
import { useChoosing } from "./use-choosing";

const ShelfFilters = lazy(async () => ({ default: (await import("./shelf-filters")).ShelfFilters }));

const ChoosingBar = lazy(async () => ({ default: (await import("./choosing-bar")).ChoosingBar }));

const PAGE = 100;

/** Every amplifier, sorted and filtered by the program, a page at a time. */
export function ShelfPage() {
  const shelf = useShelfQuery();
  const choosing = useChoosing(shelf);
  useTitle("Shelf");
  const asked = queries.useInfiniteQuery(
    "get",
    "/api/amplifiers",
    { params: { query: { ...shelf.asked, limit: PAGE } } },
    {
      pageParamName: "after",
      initialPageParam: null,
      getNextPageParam: (page: Schemas["Shelf"]) => page.next ?? undefined,
      placeholderData: keepPreviousData,
    },
  );
  const { data, error, isPending, isPlaceholderData, refetch, hasNextPage, isFetchingNextPage, fetchNextPage } = asked;
  const items = data?.pages.flatMap((page) => page.amplifiers) ?? [];
  const found = data?.pages[0]?.found ?? 0;
  const asks = JSON.stringify(shelf.asked);
  // Another question begins at its first answer.
  const [at, setAt] = useState({ asks, row: 0 });
  const chosen = at.asks === asks ? Math.min(at.row, Math.max(items.length - 1, 0)) : 0;
  const navigate = useNavigate();
  const find = useRef<HTMLInputElement>(null);
  // Enter opens what is found, and what is found may still be on its way.
  const [opening, setOpening] = useState<string | null>(null);
  const toOpen = opening === shelf.text("find") && !isPlaceholderData ? items[chosen] : undefined;
  useEffect(() => {
    if (toOpen) void navigate(`/amplifiers/${toOpen.id}/claims`);
  }, [toOpen, navigate]);
  const open = () => setOpening(find.current?.value ?? "");
  const move = (by: number) => setAt({ asks, row: Math.max(0, Math.min(items.length - 1, chosen + by)) });
  const walk = { ArrowDown: () => move(1), ArrowUp: () => move(-1), Enter: open };
  useKeys({ "/": () => find.current?.focus(), n: () => void navigate("/amplifiers/new"), i: () => void navigate("/import"), ...walk });
  const onNear = useCallback(() => {
    if (hasNextPage && !isFetchingNextPage) void fetchNextPage();
  }, [hasNextPage, isFetchingNextPage, fetchNextPage]);
  if (isPending) return <Loading />;
  if (error && !data) return <Failed error={error} retry={() => void refetch()} />;
  const none = found === 0 && !shelf.filtered && (data?.pages[0]?.archived ?? 0) === 0;
  return (
    <main className="mx-auto w-full max-w-[1180px] px-5 py-5">
      <div className="flex flex-wrap items-end justify-between gap-3">
        <h1 className="wide text-2xl font-strong">On the shelf</h1>
        <div className="flex flex-1 flex-wrap justify-end gap-2">
          <FindField
            ref={find}
            value={shelf.text("find")}
            onFind={(words) => {
              setOpening(null);
              shelf.set("find", words);
            }}
            walk={walk}
          />
          <Link className={buttonClass("main")} to="/amplifiers/new">
            Add an amplifier
          </Link>
          <Link className={buttonClass()} to="/incidents">
            Incidents
          </Link>
          <Link className={buttonClass()} to="/import">
            Import
          </Link>
          {!none && (
            <a className={buttonClass()} href="/api/shelf.zip" download>
              Export all
            </a>
          )}
          {!none && (
            <a className={buttonClass()} href="/api/data.zip" download>
              As data
            </a>
          )}
          {!none && (
            <a className={buttonClass()} href="/api/site.zip" download>
              Web site
            </a>
          )}
        </div>
      </div>
      {none ? (
        <div className="mt-6">
          <Empty title="Nothing on the shelf yet.">
            <p>Add the amplifier that is on your bench: its maker, its class, its fuses. Then copy down what its maker claims.</p>
            <span className="flex flex-wrap gap-2">
              <Link className={buttonClass("main")} to="/amplifiers/new">
                Add an amplifier
              </Link>
              <Link className={buttonClass()} to="/import">
                Import a session file
              </Link>
            </span>
          </Empty>
        </div>
      ) : (
        <>
          <div className="min-h-12">
            <Suspense>
              <ShelfFilters
                shelf={shelf}
                found={found}
                down={data?.pages[0]?.descending ?? true}
                tags={data?.pages[0]?.tags ?? []}
                archived={data?.pages[0]?.archived ?? 0}
                choosing={choosing}
              />
            </Suspense>
          </div>
          {choosing.chosen !== null && (
            <Suspense>
              <ChoosingBar choosing={choosing} away={shelf.text("archived") === "true"} found={found} />
            </Suspense>
          )}
          <ShelfList items={items} found={found} chosen={chosen} onNear={onNear} choosing={choosing} />
        </>
      )}
      {!none && found === 0 && (
        <p className="mt-4" role="status">
          {shelf.text("find") === ""
            ? "No amplifier on the shelf matches that."
            : `No amplifier on the shelf matches “${shelf.text("find")}”.`}
        </p>
      )}
    </main>
  );
}
