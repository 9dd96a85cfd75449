import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { useNavigate } from "react-router";
import { api, data, Refusal } from "@/api/client";
import { useNotice } from "./notice";

/** Takes back the last act of this tab, and says what it was. */
export function useUndo() {
  const { tell } = useNotice();
  const client = useQueryClient();
  const navigate = useNavigate();
  return useCallback(async () => {
    try {
      const undone = await data(api.POST("/api/undo"));
      tell({ says: `Took back: ${undone.says}.`, look: "plain" });
      await client.invalidateQueries();
      if (undone.says.startsWith("deleted")) await navigate(`/amplifiers/${undone.amplifier_id}/claims`);
      else if (!undone.on_shelf) await navigate("/");
    } catch (error) {
      tell({
        says: (error as Error).message,
        look: error instanceof Refusal && error.status === 409 ? "plain" : "stop",
      });
    }
  }, [tell, client, navigate]);
}
