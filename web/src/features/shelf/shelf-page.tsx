import { useMemo, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "@/api/client";
import { useShelf } from "@/api/queries";
import { Button, buttonClass } from "@/ui/button";
import { Kbd } from "@/ui/kbd";
import { Empty, Failed, Loading } from "@/ui/states";
import { useKeys } from "@/ui/use-keys";
import { matches } from "./matches";
import { ShelfRow } from "./shelf-row";

type Item = Schemas["ShelfItem"];

/** Rows drawn at first: more take longer to draw than to find. */
const DRAWN = 100;

/** Every amplifier, the one last worked on first. */
export function ShelfPage() {
  const shelf = useShelf();
  if (shelf.isPending) return <Loading />;
  if (shelf.isLoadingError) return <Failed error={shelf.error} retry={() => void shelf.refetch()} />;
  return <ShelfList items={shelf.data.amplifiers} />;
}

function ShelfList({ items }: { items: Item[] }) {
  const [wanted, setWanted] = useState("");
  const [at, setAt] = useState(0);
  const find = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const found = useMemo(() => items.filter((item) => matches(item.summary, wanted)), [items, wanted]);
  const chosen = Math.min(at, Math.max(found.length - 1, 0));
  const [all, setAll] = useState(false);
  // The one that is chosen is always among them.
  const drawn = all ? found : found.slice(0, Math.max(DRAWN, chosen + DRAWN / 2));
  const open = () => {
    const item = found[chosen];
    if (item) void navigate(`/amplifiers/${item.id}/claims`);
  };
  const move = (by: number) => setAt(Math.max(0, Math.min(found.length - 1, chosen + by)));
  const keys = {
    "/": () => find.current?.focus(),
    n: () => void navigate("/amplifiers/new"),
    i: () => void navigate("/import"),
    ArrowDown: () => move(1),
    ArrowUp: () => move(-1),
    Enter: open,
  };
  useKeys(keys);
  return (
    <main className="mx-auto w-full max-w-[1180px] px-5 py-5">
      <div className="flex flex-wrap items-end justify-between gap-3">
        <h1 className="wide text-2xl font-strong">On the shelf</h1>
        <div className="flex flex-1 flex-wrap justify-end gap-2">
          <label className="flex min-w-[220px] items-center gap-2 rounded-md border border-edge bg-field px-2.5 focus-within:outline-2 focus-within:outline-copper">
            <span className="sr-only">Find an amplifier</span>
            <input
              ref={find}
              type="search"
              value={wanted}
              placeholder="Name, maker, verdict"
              className="w-full bg-transparent py-2 outline-none placeholder:text-ink3"
              onChange={(event) => {
                setWanted(event.target.value.slice(0, 200));
                setAt(0);
              }}
              onKeyDown={(event) => {
                if (event.key === "ArrowDown") move(1);
                else if (event.key === "ArrowUp") move(-1);
                else if (event.key === "Enter") open();
                else if (event.key === "Escape") setWanted("");
                else return;
                event.preventDefault();
              }}
            />
            <Kbd>/</Kbd>
          </label>
          <Link className={buttonClass("main")} to="/amplifiers/new">
            Add an amplifier
          </Link>
          <Link className={buttonClass()} to="/import">
            Import
          </Link>
          {items.length > 0 && (
            <a className={buttonClass()} href="/api/shelf.zip" download>
              Export all
            </a>
          )}
        </div>
      </div>
      {items.length === 0 ? (
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
        <ul className="mt-4 grid gap-px overflow-hidden rounded-lg border border-line bg-hair">
          {drawn.map((item, i) => (
            <ShelfRow key={item.id} item={item} chosen={i === chosen} />
          ))}
        </ul>
      )}
      {drawn.length < found.length && (
        <p className="mt-3 flex flex-wrap items-center gap-3 text-ink2">
          {drawn.length} of {found.length}, the last worked on first.
          <Button size="low" onClick={() => setAll(true)}>
            Show all
          </Button>
        </p>
      )}
      {items.length > 0 && found.length === 0 && (
        <p className="mt-4" role="status">
          No amplifier has “{wanted}” in its name, its maker or its verdict.
        </p>
      )}
    </main>
  );
}
