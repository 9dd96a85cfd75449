import type { RefObject } from "react";
import { Kbd } from "@/ui/kbd";
import { useTyped } from "@/ui/use-typed";

/** The search of the shelf: what is typed is looked for a moment later. Arrows and Enter walk the list from inside it. */
export function FindField({
  ref,
  value,
  onFind,
  walk,
}: {
  ref: RefObject<HTMLInputElement | null>;
  /** What is looked for now. */
  value: string;
  onFind: (words: string) => void;
  walk: Record<"ArrowDown" | "ArrowUp" | "Enter", () => void>;
}) {
  const { typed, setTyped, tellNow } = useTyped(value, onFind);
  return (
    <label className="flex min-w-[220px] items-center gap-2 rounded-md border border-edge bg-field px-2.5 focus-within:outline-2 focus-within:outline-copper">
      <span className="sr-only">Find an amplifier</span>
      <input
        ref={ref}
        type="search"
        value={typed}
        placeholder="Name, maker, verdict"
        className="w-full bg-transparent py-2 outline-none placeholder:text-ink3"
        onChange={(event) => setTyped(event.target.value.slice(0, 200))}
        onKeyDown={(event) => {
          if (event.key === "Escape") setTyped("");
          else if (event.key === "Enter") {
            tellNow();
            walk.Enter();
          } else if (event.key === "ArrowDown" || event.key === "ArrowUp") walk[event.key]();
          else return;
          event.preventDefault();
        }}
      />
      <Kbd>/</Kbd>
    </label>
  );
}
