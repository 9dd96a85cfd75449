import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { api, data, Refusal, type Schemas } from "@/api/client";
import { queries } from "@/api/queries";
import { ofSamples, type Pyramid, pyramids, type Sight } from "./pyramid";

type Cut = Schemas["CutView"];

export const useTraceList = (sessionId: string) =>
  queries.useQuery("get", "/api/sessions/{id}/traces", { params: { path: { id: sessionId } } });

const path = (id: string, sha256: string) => ({ path: { id, sha256 } });

export const useTrace = (id: string, sha256: string | undefined, load_ohm: number | undefined) =>
  queries.useQuery(
    "get",
    "/api/sessions/{id}/traces/{sha256}",
    { params: { ...path(id, sha256 ?? ""), query: load_ohm === undefined ? {} : { load_ohm } } },
    { enabled: sha256 !== undefined, placeholderData: (before) => before },
  );

async function bytes(address: string, signal: AbortSignal): Promise<ArrayBuffer> {
  const response = await fetch(address, { signal });
  if (!response.ok) throw new Refusal(response.status, "no-wave", "The wave cannot be read.", []);
  return response.arrayBuffer();
}

/** The wave of every channel, as far as a screen needs it. */
export function useWave(id: string, sha256: string | undefined, view: Schemas["TraceView"] | undefined) {
  const { piece, pieces } = view ?? { piece: 1, pieces: 0 };
  const sent = useQuery({
    queryKey: ["wave", sha256],
    queryFn: ({ signal }) => bytes(`/api/sessions/${id}/traces/${sha256 ?? ""}/wave`, signal),
    enabled: sha256 !== undefined && view !== undefined,
    staleTime: Infinity,
    gcTime: 60_000,
  });
  return useMemo(() => (sent.data ? pyramids(sent.data, pieces, piece) : undefined), [sent.data, pieces, piece]);
}

/** Most samples that are asked for at once. */
const MOST = 262_144;

/** The samples themselves, where somebody looks closer than the pieces of the wave are: so much around what is in sight. */
export function useSamples(
  id: string,
  sha256: string | undefined,
  channel: number,
  near: { sight: Sight; rate: number; piece: number; channels: number },
) {
  const { sight, rate, piece, channels } = near;
  const frames = (sight.to - sight.from) * rate;
  const isNear = piece > 1 && frames < MOST / 4;
  // In steps, so that a drag does not ask anew at every pixel.
  const step = MOST / 4;
  const from = Math.max(0, Math.floor((sight.from * rate) / step - 1) * step);
  const sent = useQuery({
    queryKey: ["samples", sha256, from],
    queryFn: ({ signal }) =>
      bytes(`/api/sessions/${id}/traces/${sha256 ?? ""}/samples?from=${String(from)}&frames=${String(MOST)}`, signal),
    enabled: sha256 !== undefined && isNear,
    staleTime: Infinity,
    gcTime: 30_000,
  });
  return useMemo((): { pyramid: Pyramid; offset: number } | undefined => {
    if (!sent.data || !isNear) return undefined;
    const all = new Float32Array(sent.data);
    const count = all.length / channels;
    return { pyramid: ofSamples(all.subarray(channel * count, (channel + 1) * count)), offset: from };
  }, [sent.data, isNear, from, channel, channels]);
}

/** One stretch from near: its figures, its spectrum, its cycles. */
export const useStretch = (id: string, sha256: string | undefined, cut: Cut | null, load_ohm: number | undefined) =>
  useQuery({
    queryKey: ["get", "/api/sessions/{id}/traces/{sha256}/stretches", { params: path(id, sha256 ?? ""), cut, load_ohm }],
    queryFn: ({ signal }) =>
      data(
        api.POST("/api/sessions/{id}/traces/{sha256}/stretches", {
          params: path(id, sha256 ?? ""),
          body: { cut: cut as Cut, load_ohm: load_ohm ?? null },
          signal,
        }),
      ),
    enabled: sha256 !== undefined && cut !== null,
    placeholderData: (before) => before,
  });

/** What a stretch would be as a run of a place. */
export const useCapturedPreview = (id: string, sha256: string | undefined, wanted: Schemas["CapturedToLog"] | null) =>
  useQuery({
    queryKey: ["get", "/api/sessions/{id}/traces/{sha256}/previews", { params: path(id, sha256 ?? ""), wanted }],
    queryFn: ({ signal }) =>
      data(
        api.POST("/api/sessions/{id}/traces/{sha256}/previews", {
          params: path(id, sha256 ?? ""),
          body: wanted as Schemas["CapturedToLog"],
          signal,
        }),
      ),
    enabled: sha256 !== undefined && wanted !== null,
    placeholderData: (before) => before,
  });
