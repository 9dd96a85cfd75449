import { api, atRevision, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { useNotice } from "@/ui/notice";

type Rung = Schemas["LadderRung"];

/** What is set for a rung now, as it is sent back: what a change does not name stays. */
export const setOf = (rung: Rung): Schemas["PlannedRung"] => ({
  wiring: rung.wiring,
  setting: rung.setting ?? null,
  load_ohm: rung.load_ohm,
  tone_hz: rung.set.tone_hz,
  load_measured_ohm: rung.set.load_measured_ohm ?? null,
  group_loads_measured_ohm: rung.set.group_loads_measured_ohm ?? [],
  rest_v: rung.set.rest_v ?? null,
  extra_drive_db: rung.set.extra_drive_db ?? null,
  charger_on: rung.set.charger_on ?? null,
  bank: rung.set.bank ?? null,
  modes: rung.set.modes,
  made_of: rung.set.made_of ?? null,
  bursts: rung.set.bursts ?? [],
});

/** Sets a rung. */
export function useRung(sessionId: string, rung: Rung, revision: number) {
  const { tell } = useNotice();
  const write = useWrite(
    (body: Schemas["RungChange"]) =>
      data(api.PUT("/api/sessions/{id}/rungs", { params: { path: { id: sessionId }, header: atRevision(revision) }, body })),
    [sessionId],
  );
  const change = (part: Partial<Schemas["PlannedRung"]>, says: string, onDone?: () => void) =>
    write.mutate(
      { rung: rung.key, set: { ...setOf(rung), ...part } },
      {
        onSuccess: () => {
          tell({ says, look: "plain", undo: true });
          onDone?.();
        },
        onError: (error) => tell({ says: error.message, look: "stop" }),
      },
    );
  return { change, pending: write.isPending };
}
