import { ToggleGroup } from "radix-ui";
import type { Schemas } from "@/api/client";
import { useSettings } from "./use-settings";

const WORDS: [Schemas["Order"], string][] = [
  ["rung", "Rung by rung"],
  ["mode", "Mode by mode"],
];

/** Both schools: all modes of a load and then the next, or all loads of a mode. */
export function OrderChoice({ sessionId, view }: { sessionId: string; view: Schemas["LadderView"] }) {
  const { change, pending } = useSettings(sessionId, view);
  return (
    <ToggleGroup.Root
      type="single"
      aria-label="Order of the runs"
      value={view.settings.order}
      disabled={pending}
      onValueChange={(next) => {
        const order = WORDS.find(([value]) => value === next)?.[0];
        if (order && order !== view.settings.order) change({ order });
      }}
      className="flex overflow-hidden rounded-md border border-line bg-sheet"
    >
      {WORDS.map(([value, words]) => (
        <ToggleGroup.Item
          key={value}
          value={value}
          className="px-3 py-[7px] text-step font-firm text-ink not-first:border-l not-first:border-line hover:bg-hair data-[state=on]:bg-top data-[state=on]:text-white"
        >
          {words}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
