import { useEffect } from "react";
import { inquire } from "@/api/inquiry";
import { left, remove } from "@/api/pending";
import { useNotice } from "./notice";

const ASKED_FOR_MS = 30_000;
let asked = false;

/** Says what became of writes that were on their way when the page was reloaded. */
export function useLeftWrites() {
  const { tell } = useNotice();
  useEffect(() => {
    if (asked || left.length === 0) return;
    asked = true;
    const find = async (key: string) => {
      const fate = await inquire(key, ASKED_FOR_MS);
      if (fate.kind !== "unknown") remove(key);
      return fate.kind;
    };
    void Promise.all(left.map(find)).then((kinds) => {
      if (kinds.includes("unknown"))
        tell({ says: "Whether the last change was saved is not known: the program does not answer.", look: "stop" });
      else if (kinds.includes("not-done"))
        tell({ says: "The last change was not saved: the page was reloaded before it got through.", look: "stop" });
      else tell({ says: "The last change was saved before the page was reloaded.", look: "plain" });
    });
  }, [tell]);
}
