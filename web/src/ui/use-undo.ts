import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { useNavigate } from "react-router";
import { api, data, Refusal } from "@/api/client";
import { queries, refresh } from "@/api/queries";
import { useNotice } from "./notice";

/** One after the other, however fast the keys come. */
let turns: Promise<void> = Promise.resolve();

/**
 * Takes back the last act of this tab, does it again, and knows what comes next. With an amplifier, only what was done to it at
 * the bench: claims stay as they are.
 */
export function useUndo(benchOf?: string) {
  const { tell } = useNotice();
  const client = useQueryClient();
  const navigate = useNavigate();
  const { data: acts } = queries.useQuery("get", "/api/acts", { params: { query: { bench_of: benchOf } } });
  const turn = useCallback(
    (way: "undo" | "redo", act?: number) => {
      const body = { act: act ?? null, bench_of: benchOf ?? null };
      const once = async () => {
        try {
          const done = await data(way === "undo" ? api.POST("/api/undos", { body }) : api.POST("/api/redos", { body }));
          tell({
            says: `${way === "undo" ? "Undone" : "Redone"}: ${done.says}.`,
            look: "plain",
            redo: way === "undo",
            undo: way === "redo",
          });
          // What was done to no amplifier, to a bench or a view, leaves the page as it is.
          if (done.amplifier_id === "") return await client.invalidateQueries();
          await refresh(client, [done.amplifier_id]);
          if (way === "undo" && done.says.startsWith("deleted")) await navigate(`/amplifiers/${done.amplifier_id}/claims`);
          else if (!done.on_shelf) await navigate("/");
        } catch (error) {
          tell({ says: (error as Error).message, look: error instanceof Refusal && error.status === 409 ? "plain" : "stop" });
          await client.invalidateQueries({ queryKey: ["get", "/api/acts"] });
        }
      };
      turns = turns.then(once);
      return turns;
    },
    [benchOf, tell, client, navigate],
  );
  return {
    acts,
    next: acts?.undo[0],
    undo: useCallback((act?: number) => turn("undo", act), [turn]),
    redo: useCallback((act?: number) => turn("redo", act), [turn]),
  };
}
