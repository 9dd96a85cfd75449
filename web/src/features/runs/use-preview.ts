import { useEffect, useMemo, useRef, useSyncExternalStore } from "react";
import { askAboutLine, type Schemas } from "@/api/client";
import type { Place } from "../ladder/place";
import { Asker, type Asked } from "./asker";

/**
 * What the line comes to as it is typed; null: it is typed for a run that is not at hand yet. `among` is what it stands among, the other
 * readings and the settings of the bench: where that changes, the line may come to something else.
 */
export function usePreview(sessionId: string, { rung, mode }: Place, line: string | null, among: Schemas["LadderView"]) {
  const asker = useMemo(() => new Asker((typed) => askAboutLine(sessionId, typed)), [sessionId]);
  const empty = line === null || line.trim() === "";
  const preview = useSyncExternalStore(asker.subscribe, () => (empty ? null : asker.answerTo(line)));
  const error = useSyncExternalStore(asker.subscribe, () => (empty ? null : asker.trouble()));
  const shown = useRef<Asked | null>(null);
  useEffect(() => {
    shown.current = empty ? null : { rung, mode, line };
    asker.want(shown.current);
  }, [asker, rung, mode, line, empty]);
  const before = useRef(among);
  useEffect(() => {
    if (before.current !== among) asker.refresh();
    before.current = among;
  }, [asker, among]);
  /** Asks before the page is drawn with the line: the answer is on its way meanwhile. A line that did not come is not asked about. */
  const askAhead = (next: string) => {
    if (line === null || next.trim() === "") return;
    asker.want({ rung, mode, line: next });
    setTimeout(() => asker.want(shown.current));
  };
  return { preview, error, askAhead };
}
