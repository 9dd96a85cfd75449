import { useEffect, useMemo, useRef, useSyncExternalStore } from "react";
import { askAboutLine } from "@/api/client";
import type { Mode } from "../ladder/place";
import { Asker, type Asked } from "./asker";

/** What the line comes to as it is typed; null: it is typed for a run that is not at hand yet. */
export function usePreview(sessionId: string, rung: string, mode: Mode, line: string | null) {
  const asker = useMemo(() => new Asker((typed) => askAboutLine(sessionId, typed)), [sessionId]);
  const empty = line === null || line.trim() === "";
  const preview = useSyncExternalStore(asker.subscribe, () => (empty ? null : asker.answerTo(line)));
  const error = useSyncExternalStore(asker.subscribe, () => (empty ? null : asker.trouble()));
  const shown = useRef<Asked | null>(null);
  useEffect(() => {
    shown.current = empty ? null : { rung, mode, line };
    asker.want(shown.current);
  }, [asker, rung, mode, line, empty]);
  /** Asks before the page is drawn with the line: the answer is on its way meanwhile. A line that did not come is not asked about. */
  const askAhead = (next: string) => {
    if (line === null || next.trim() === "") return;
    asker.want({ rung, mode, line: next });
    setTimeout(() => asker.want(shown.current));
  };
  return { preview, error, askAhead };
}
