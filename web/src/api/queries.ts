import { QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, data } from "./client";

export const queryClient = new QueryClient({
  defaultOptions: { queries: { retry: 1, staleTime: 2_000 } },
});

export const useShelf = () => useQuery({ queryKey: ["shelf"], queryFn: () => data(api.GET("/api/amplifiers")) });

export const useAmplifier = (id: string) =>
  useQuery({
    queryKey: ["amplifier", id],
    queryFn: () => data(api.GET("/api/amplifiers/{id}", { params: { path: { id } } })),
  });

export const useBenches = () => useQuery({ queryKey: ["benches"], queryFn: () => data(api.GET("/api/benches")) });

/** The links change by themselves: a meter is switched on, a cable falls out. */
export const useInstruments = () =>
  useQuery({ queryKey: ["instruments"], queryFn: () => data(api.GET("/api/instruments")), refetchInterval: 2_000 });

export const usePhotos = (amplifierId: string) =>
  useQuery({
    queryKey: ["photos", amplifierId],
    queryFn: () => data(api.GET("/api/amplifiers/{id}/photos", { params: { path: { id: amplifierId } } })),
  });

const ofSession = (id: string | undefined) => ({ params: { path: { id: id ?? "" } } });

export const useLadder = (sessionId: string | undefined) =>
  useQuery({
    queryKey: ["ladder", sessionId],
    enabled: sessionId !== undefined,
    queryFn: () => data(api.GET("/api/sessions/{id}/ladder", ofSession(sessionId))),
  });

export const useVerdict = (sessionId: string | undefined) =>
  useQuery({
    queryKey: ["verdict", sessionId],
    enabled: sessionId !== undefined,
    queryFn: () => data(api.GET("/api/sessions/{id}/verdict", ofSession(sessionId))),
  });

/** Whether the next run may start changes by itself: time passes, the supply recovers. */
export const useRest = (sessionId: string, asked = true) =>
  useQuery({
    queryKey: ["rest", sessionId],
    enabled: asked,
    queryFn: () => data(api.GET("/api/sessions/{id}/rest", ofSession(sessionId))),
    refetchInterval: 2_000,
  });

export const useAbout = () => useQuery({ queryKey: ["about"], staleTime: Infinity, queryFn: () => data(api.GET("/api/about")) });

/** Leaving out one reading after another takes a while: it is asked for where checks fired. */
export const useSuspicion = (sessionId: string, asked: boolean) =>
  useQuery({
    queryKey: ["suspicion", sessionId],
    enabled: asked,
    queryFn: () => data(api.GET("/api/sessions/{id}/suspicion", ofSession(sessionId))),
  });

export const useRun = (sessionId: string, runId: string | undefined) =>
  useQuery({
    queryKey: ["run", sessionId, runId],
    enabled: runId !== undefined,
    queryFn: () => data(api.GET("/api/sessions/{id}/runs/{run}", { params: { path: { id: sessionId, run: runId ?? "" } } })),
  });

/**
 * A write: when it is done everything shown is asked for anew, since a claim or a run changes all of it. The page goes on
 * at once and does not wait for that.
 */
export function useWrite<In, Out>(write: (input: In) => Promise<Out>) {
  const client = useQueryClient();
  return useMutation({ mutationFn: write, onSuccess: () => void client.invalidateQueries() });
}
