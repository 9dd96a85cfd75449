import { useSyncExternalStore } from "react";
import { current, subscribe, type Seen } from "./live-stream";

/** The live run as this browser sees it. */
export const useLive = (): Seen => useSyncExternalStore(subscribe, current);

/** Whether a live run is under way. */
export const isRunning = (seen: Seen) => seen.live !== null && seen.live.ended == null;
