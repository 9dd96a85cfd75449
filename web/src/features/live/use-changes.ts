import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { tabId } from "@/api/client";
import { refresh, refreshLines } from "@/api/queries";
import { onChange } from "./live-stream";

/** Said in place of a tab when the lines of the shelf were made. */
const LINES = "lines";

/** What another tab or machine changed is asked for again at once; what this tab changed it asks for itself. */
export function useChanges() {
  const client = useQueryClient();
  useEffect(
    () =>
      onChange(({ tab, amplifiers }) => {
        if (tab === tabId()) return;
        if (tab === LINES) void refreshLines(client);
        else void (amplifiers.length === 0 ? client.invalidateQueries() : refresh(client, amplifiers));
      }),
    [client],
  );
}
