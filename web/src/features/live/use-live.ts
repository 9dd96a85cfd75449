import { useEffect, useState, useSyncExternalStore } from "react";
import { current, subscribe, type Seen } from "./live-stream";

/** The live run as this browser sees it. */
export const useLive = (): Seen => useSyncExternalStore(subscribe, current);

/** Whether a live run is under way. */
export const isRunning = (seen: Seen) => seen.live !== null && seen.live.ended == null;

/** A page that never heard the program gives it so long. */
const FIRST_MS = 3_500;

/** Whether the program is heard; null while that is not known yet. */
export function useLinked(): boolean | null {
  const { open } = useLive();
  const [known, setKnown] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setKnown(true), open ? 0 : FIRST_MS);
    return () => clearTimeout(timer);
  }, [open]);
  return open ? true : known ? false : null;
}
