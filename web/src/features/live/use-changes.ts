import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { tabId } from "@/api/client";
import { refresh } from "@/api/queries";
import { onChange } from "./live-stream";

/** What another tab or machine changed is asked for again at once; what this tab changed it asks for itself. */
export function useChanges() {
  const client = useQueryClient();
  useEffect(
    () =>
      onChange(({ tab, amplifiers }) => {
        if (tab === tabId()) return;
        void (amplifiers.length === 0 ? client.invalidateQueries() : refresh(client, amplifiers));
      }),
    [client],
  );
}
