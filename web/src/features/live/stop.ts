import { useSyncExternalStore } from "react";
import { api, data, Refusal } from "@/api/client";
import { pause } from "@/ui/pause";

/** How a stop that was asked for comes along. */
type Stopping = "no" | "asked" | "unreachable";

let stopping: Stopping = "no";
const listeners = new Set<() => void>();

function set(next: Stopping) {
  stopping = next;
  listeners.forEach((listener) => listener());
}

const AGAIN_MS = 400;

/**
 * Stops the live run: the level goes to zero whether or not one is under way. A stop that does not get through is sent again and
 * again, and the page says meanwhile that it does not.
 */
export async function stopLive(): Promise<void> {
  if (stopping !== "no") return;
  set("asked");
  for (;;) {
    try {
      await data(api.POST("/api/live/stop", { signal: AbortSignal.timeout(2_000) }));
      return set("no");
    } catch (error) {
      // An answer is an answer, also one that says no: the program is there, and shows the run as it is.
      if (error instanceof Refusal && error.status !== 0) return set("no");
      set("unreachable");
      await pause(AGAIN_MS);
    }
  }
}

/** Whether a stop was asked for that did not reach the program. */
export const useStopUnreachable = () =>
  useSyncExternalStore(
    (listener) => {
      listeners.add(listener);
      return () => listeners.delete(listener);
    },
    () => stopping === "unreachable",
  );

/** Takes the level away and switches the supply off, where one is under control; what was done, in a sentence. */
export async function cutSupply(): Promise<string> {
  try {
    return (await data(api.POST("/api/live/cut", { signal: AbortSignal.timeout(10_000) }))).says;
  } catch {
    return "The supply could not be switched off from here: cut it by hand.";
  }
}
