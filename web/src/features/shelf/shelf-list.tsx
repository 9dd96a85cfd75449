import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import type { Schemas } from "@/api/client";
import { ShelfRow } from "./shelf-row";
import type { Choosing } from "./use-choosing";

/** Pixels of a row, with the line under it. */
const ROW = 59;

/** The rows that are in sight, of however many there are; more are asked for as the end comes near. */
export function ShelfList({
  items,
  found,
  chosen,
  onNear,
  choosing,
}: {
  items: Schemas["ShelfItem"][];
  /** Rows on all pages. */
  found: number;
  chosen: number;
  onNear: () => void;
  choosing: Choosing;
}) {
  const box = useRef<HTMLUListElement>(null);
  const [margin, setMargin] = useState(0);
  useLayoutEffect(() => setMargin(box.current?.offsetTop ?? 0), []);
  const rows = useWindowVirtualizer({ count: found, estimateSize: () => ROW, overscan: 10, scrollMargin: margin });
  const shown = rows.getVirtualItems();
  const last = shown.at(-1)?.index ?? 0;
  useEffect(() => {
    if (last >= items.length - 1 && items.length < found) onNear();
  }, [last, items.length, found, onNear]);
  const choiceOf = (id: string) =>
    choosing.chosen === null ? undefined : { on: choosing.chosen.has(id), toggle: () => choosing.toggle(id) };
  const moved = useRef(chosen);
  useEffect(() => {
    if (moved.current !== chosen) rows.scrollToIndex(chosen);
    moved.current = chosen;
  }, [chosen, rows]);
  return (
    <ul
      ref={box}
      className="relative mt-4 overflow-hidden rounded-lg border border-line bg-hair"
      style={{ height: `${String(rows.getTotalSize())}px` }}
    >
      {shown.map(({ index, start }) => {
        const item = items[index];
        return (
          <li
            key={item?.id ?? index}
            aria-setsize={found}
            aria-posinset={index + 1}
            className="absolute inset-x-0"
            style={{ height: `${String(ROW - 1)}px`, transform: `translateY(${String(start - margin)}px)` }}
          >
            {item ? <ShelfRow item={item} chosen={index === chosen} choice={choiceOf(item.id)} /> : <div className="h-full bg-sheet" />}
          </li>
        );
      })}
    </ul>
  );
}
