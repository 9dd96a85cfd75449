import { type QueryClient, useMutation, useQueryClient } from "@tanstack/react-query";
import createQueries from "openapi-react-query";
import { api, type Schemas } from "./client";

/**
 * Every question a page asks. What is known is kept under the method, the path and what was asked with it, so that a write can
 * name the records it changed.
 */
export const queries = createQueries(api);

/** The amplifier that was last worked on. */
export const useLatest = () => queries.useQuery("get", "/api/amplifiers", { params: { query: { limit: 1 } } });

const ofId = (id: string | undefined) => ({ params: { path: { id: id ?? "" } } });

export const useAmplifier = (id: string) => queries.useQuery("get", "/api/amplifiers/{id}", ofId(id));

export const useBenches = () => queries.useQuery("get", "/api/benches");

/** The links change by themselves: a meter is switched on, a cable falls out. */
export const useInstruments = () => queries.useQuery("get", "/api/instruments", {}, { refetchInterval: 2_000 });

export const usePhotos = (amplifierId: string) => queries.useQuery("get", "/api/amplifiers/{id}/photos", ofId(amplifierId));

export const useLadder = (sessionId: string | undefined) =>
  queries.useQuery("get", "/api/sessions/{id}/ladder", ofId(sessionId), { enabled: sessionId !== undefined });

export const useVerdict = (sessionId: string | undefined) =>
  queries.useQuery("get", "/api/sessions/{id}/verdict", ofId(sessionId), { enabled: sessionId !== undefined });

/** Whether the next run may start changes by itself: time passes, the supply recovers. */
export const useRest = (sessionId: string, asked = true) =>
  queries.useQuery("get", "/api/sessions/{id}/rest", ofId(sessionId), { enabled: asked, refetchInterval: 2_000 });

export const useAbout = () => queries.useQuery("get", "/api/about", {}, { staleTime: Infinity });

/** Leaving out one reading after another takes a while: it is asked for where checks fired. */
export const useSuspicion = (sessionId: string, asked: boolean) =>
  queries.useQuery("get", "/api/sessions/{id}/suspicion", ofId(sessionId), { enabled: asked });

export const useRun = (sessionId: string, runId: string | undefined) =>
  queries.useQuery(
    "get",
    "/api/sessions/{id}/runs/{run}",
    { params: { path: { id: sessionId, run: runId ?? "" } } },
    { enabled: runId !== undefined },
  );

/** Lists in which a record of any amplifier shows. */
const LISTS = new Set(["/api/amplifiers", "/api/incidents", "/api/acts"]);

/** What is sorted, searched or summed up by the lines of the shelf, which are made a moment after a write. */
const OF_LINES = new Set(["/api/amplifiers", "/api/comparison", "/api/lessons"]);

/** Asks again for what stands on the lines of the shelf. */
export const refreshLines = (client: QueryClient) =>
  client.invalidateQueries({ predicate: ({ queryKey }) => OF_LINES.has((queryKey as unknown as Key)[1]) });

type Key = readonly [method: string, path: string, init?: { params?: { path?: Record<string, string> } }];

/**
 * Asks again for what is shown of some records, and of the lists they stand in. A session is its amplifier's: what was done in it
 * shows on both.
 */
export function refresh(client: QueryClient, ids: readonly string[]) {
  const changed = new Set(ids);
  for (const [, amplifier] of client.getQueriesData<Schemas["AmplifierView"]>({ queryKey: ["get", "/api/amplifiers/{id}"] })) {
    if (amplifier && changed.has(amplifier.session_id)) changed.add(amplifier.id);
    else if (amplifier && changed.has(amplifier.id)) changed.add(amplifier.session_id);
  }
  return client.invalidateQueries({
    predicate: ({ queryKey }) => {
      const [, path, init] = queryKey as unknown as Key;
      return LISTS.has(path) || Object.values(init?.params?.path ?? {}).some((id) => changed.has(id));
    },
  });
}

/**
 * A write. When it is done, what is shown of the records it changed is asked for again; of everything, where it does not say which.
 * The page goes on at once and does not wait for that.
 */
export function useWrite<In, Out>(write: (input: In) => Promise<Out>, changes?: readonly string[]) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: write,
    onSuccess: () => void (changes ? refresh(client, changes) : client.invalidateQueries()),
  });
}
