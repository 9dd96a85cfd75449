import { useState, type KeyboardEvent } from "react";
import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/button";
import { Check } from "@/ui/check";
import { TONES } from "@/ui/tones";

type Row = Schemas["WorthRow"];
type Column = "name" | "clean" | "price" | "per_watt";

const KEYS: Record<Column, (row: Row) => number | string | null> = {
  name: (row) => row.name,
  clean: (row) => row.clean_w ?? null,
  price: (row) => row.price ?? null,
  per_watt: (row) => row.per_watt_price ?? null,
};

/** Rows drawn at first: more are rarely looked through one by one. */
const FIRST = 200;

/** What has none stands last, whichever way. */
function sorted(rows: readonly Row[], by: Column, down: boolean): Row[] {
  const of = KEYS[by];
  return [...rows].sort((a, b) => {
    const [one, other] = [of(a), of(b)];
    if (one === null || other === null) return one === other ? a.name.localeCompare(b.name) : one === null ? 1 : -1;
    const order = typeof one === "number" && typeof other === "number" ? one - other : String(one).localeCompare(String(other));
    return down ? -order : order;
  });
}

/** Every amplifier with its clean watts and its price; a tick puts it beside the others. */
export function WorthTable({
  rows,
  ids,
  full,
  toggle,
  rivals,
}: {
  rows: readonly Row[];
  ids: readonly string[];
  full: boolean;
  toggle: (id: string) => void;
  /** Shows what claims about as much. */
  rivals: (watts: number) => void;
}) {
  const [by, setBy] = useState<Column>("clean");
  const [down, setDown] = useState(true);
  const [all, setAll] = useState(false);
  const order = sorted(rows, by, down);
  const sort = (column: Column) => {
    setDown(column === by ? !down : column === "clean");
    setBy(column);
  };
  // The arrow keys walk the ticks, Space sets one.
  const walk = (event: KeyboardEvent<HTMLTableSectionElement>) => {
    const by = event.key === "ArrowDown" ? 1 : event.key === "ArrowUp" ? -1 : 0;
    if (by === 0) return;
    const ticks = [...event.currentTarget.querySelectorAll<HTMLElement>("[role=checkbox]")];
    const at = ticks.indexOf(document.activeElement as HTMLElement);
    if (at < 0) return;
    event.preventDefault();
    ticks[Math.max(0, Math.min(ticks.length - 1, at + by))]?.focus();
  };
  const head = (column: Column, words: string, className = "") => (
    <th
      scope="col"
      aria-sort={column === by ? (down ? "descending" : "ascending") : "none"}
      className={`px-2 py-2 font-medium ${className}`}
    >
      <button type="button" className="rounded hover:text-ink" onClick={() => sort(column)}>
        {words} {column === by && <span aria-hidden>{down ? "↓" : "↑"}</span>}
      </button>
    </th>
  );
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-collapse text-body">
        <thead className="text-left text-note text-ink2">
          <tr className="border-b border-line">
            <th scope="col" className="w-8">
              <span className="sr-only">Side by side</span>
            </th>
            {head("name", "Amplifier")}
            <th scope="col" className="px-2 font-medium max-md:hidden">
              How its claims came out
            </th>
            {head("clean", "Certified, 14.4\u202fV", "text-right")}
            {head("price", "Price", "text-right max-sm:hidden")}
            {head("per_watt", "Per watt", "text-right")}
            <th scope="col" className="px-2 font-medium max-lg:hidden">
              For the money
            </th>
          </tr>
        </thead>
        <tbody onKeyDown={walk}>
          {order.slice(0, all ? undefined : FIRST).map((row) => {
            const on = ids.includes(row.id);
            return (
              <tr key={row.id} className={`border-b border-hair ${on ? "bg-verdigris-wash" : ""}`}>
                <td className="px-2 py-2">
                  <Check label="" name={`${row.name} beside the others`} checked={on} onChange={() => (on || !full) && toggle(row.id)} />
                </td>
                <td className="px-2">
                  <Link to={`/amplifiers/${row.id}/verdict`} className="font-semibold hover:underline">
                    {row.name}
                  </Link>
                  <small className="block text-sm text-ink2">
                    class {row.class} · {row.outputs === 1 ? "1 output" : `${String(row.outputs)} outputs`}
                    {row.headline_w != null && (
                      <>
                        {" · "}
                        <button
                          type="button"
                          className="underline underline-offset-2 hover:text-ink"
                          aria-label={`Rivals of the ${row.name}, which claim about as much`}
                          onClick={() => rivals(row.headline_w ?? 0)}
                        >
                          rivals
                        </button>
                      </>
                    )}
                  </small>
                </td>
                <td className={`px-2 max-md:hidden ${TONES[row.tone]}`}>{row.state}</td>
                <td className="px-2 text-right whitespace-nowrap">
                  {row.clean == null ? (
                    <span className="text-step text-ink2">{row.claims_only ? "claims only" : "not tested clean"}</span>
                  ) : (
                    <>
                      <span className="num">{row.clean}</span>
                      <span className="num text-sm text-ink2">{`\u202fW ± ${row.plus_minus ?? ""}`}</span>
                      <small className="block text-sm text-ink2">
                        at {row.load}
                        {row.efficiency != null && `, ${row.efficiency}\u202f%`}
                      </small>
                    </>
                  )}
                </td>
                <td className="num px-2 text-right whitespace-nowrap max-sm:hidden">{row.price_words}</td>
                <td className="px-2 text-right whitespace-nowrap">
                  <span className="num">{row.per_watt}</span>
                  {row.per_claimed_watt != null && (
                    <small className="block text-sm text-ink2">
                      claimed <span className="num">{row.per_claimed_watt}</span>
                    </small>
                  )}
                </td>
                <td className="px-2 text-step text-ink2 max-lg:hidden">{row.standing?.says}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {!all && order.length > FIRST && (
        <Button className="mt-3" onClick={() => setAll(true)}>
          Show all {String(order.length)}
        </Button>
      )}
    </div>
  );
}
