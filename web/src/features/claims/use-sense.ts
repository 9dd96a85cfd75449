import { useEffect, useState } from "react";
import { api, data, type Schemas } from "@/api/client";

type Sense = Schemas["Sense"];

/** What there is to doubt about a line as it is typed; nothing while the line cannot be read yet. */
export function useSense(amplifierId: string, claim: Schemas["Claim"] | null, replaces: string | null): Sense[] {
  const [found, setFound] = useState<{ of: string; sense: Sense[] } | null>(null);
  const typed = claim === null ? null : JSON.stringify(claim);
  useEffect(() => {
    if (typed === null) return;
    const abort = new AbortController();
    data(
      api.POST("/api/amplifiers/{id}/sense-checks", {
        params: { path: { id: amplifierId } },
        body: { claim: JSON.parse(typed) as Schemas["Claim"], replaces },
        signal: abort.signal,
      }),
    )
      .then(({ view }) => setFound({ of: typed, sense: view.found }))
      // A line that the program refuses is complained about when it is saved; until then there is nothing to check.
      .catch(() => undefined);
    return () => abort.abort();
  }, [amplifierId, typed, replaces]);
  const own = replaces ?? "draft";
  return found && found.of === typed ? found.sense.filter((sense) => sense.claims.includes(own)) : [];
}
