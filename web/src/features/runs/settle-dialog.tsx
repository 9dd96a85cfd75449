import { useState } from "react";
import { Form } from "@/ui/form";
import { api, data } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { ChoiceField } from "@/ui/choice";
import { TextField } from "@/ui/field";
import { useNotice } from "@/ui/notice";
import { READINGS } from "./readings";

export interface Settling {
  runId: string;
  kind: "strike" | "accept" | "meter";
  /** The reading, the check's code, or the meter. */
  what: string;
}

const TITLES = { strike: "Strike a reading", accept: "Accept it as it stands", meter: "Strike a meter across the session" };
const EXPLAINS = {
  strike: "The reading stays visible but is not used in any figure.",
  accept: "The check is accepted; the verdict shows it with this reason.",
  meter:
    "Where another meter read the same quantity, its reading is used instead; elsewhere the reading is struck. One undo reverses all of it.",
};

/** A reason, and then the reading is struck, the check accepted, or the meter out. */
export function SettleDialog({
  sessionId,
  settling,
  meters,
  onClose,
}: {
  sessionId: string;
  settling: Settling;
  meters: string[];
  onClose: () => void;
}) {
  const { tell } = useNotice();
  const [reason, setReason] = useState("");
  const [meter, setMeter] = useState(settling.what);
  const [says, setSays] = useState<string | null>(null);
  const { kind, what, runId } = settling;
  const settle = useWrite(async () => {
    if (kind === "meter") {
      const path = { id: sessionId, meter };
      const { runs } = await data(api.POST("/api/sessions/{id}/meters/{meter}/strikes", { params: { path }, body: { reason } }));
      return `${meter} struck in ${String(runs)} runs.`;
    }
    const path = { id: sessionId, run: runId };
    await data(api.POST("/api/sessions/{id}/runs/{run}/remarks", { params: { path }, body: { kind, what, reason } }));
    return kind === "strike" ? `The ${READINGS[what] ?? what} are struck.` : "Accepted.";
  }, [sessionId]);
  return (
    <Dialog open onClose={onClose} title={TITLES[kind]} width="max-w-[520px]">
      <Form
        className="grid gap-3"
        onSubmit={() => {
          settle.mutate(undefined, {
            onSuccess: (done) => {
              tell({ says: done, look: "plain", undo: true });
              onClose();
            },
            onError: (error) => setSays(error.message),
          });
        }}
      >
        <p className="text-ink2">{EXPLAINS[kind]}</p>
        {kind === "meter" && <ChoiceField label="Meter" value={meter} onChoose={setMeter} options={meters.map((id) => [id, id])} />}
        <TextField label="Why" autoFocus value={reason} error={says ?? undefined} onChange={(event) => setReason(event.target.value)} />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main" disabled={settle.isPending}>
            {kind === "accept" ? "Accept" : "Strike"}
          </Button>
        </div>
      </Form>
    </Dialog>
  );
}
