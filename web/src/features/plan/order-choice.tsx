import type { Schemas } from "@/api/client";
import { Segments } from "@/ui/segments";
import { useSettings } from "./use-settings";

const WORDS: [Schemas["Order"], string][] = [
  ["rung", "Rung by rung"],
  ["mode", "Mode by mode"],
];

/** Both schools: all modes of a load and then the next, or all loads of a mode. */
export function OrderChoice({ sessionId, view }: { sessionId: string; view: Schemas["LadderView"] }) {
  const { change, pending } = useSettings(sessionId, view);
  return (
    <Segments
      label="Order of the runs"
      options={WORDS}
      value={view.settings.order}
      disabled={pending}
      onChoose={(order) => change({ order })}
    />
  );
}
