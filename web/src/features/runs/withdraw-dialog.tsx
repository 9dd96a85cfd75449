import { useState } from "react";
import { Form } from "@/ui/form";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { useNotice } from "@/ui/notice";

/** Takes back the reason that opened a gate. */
export function WithdrawDialog({ sessionId, place, onClose }: { sessionId: string; place: Schemas["Place"]; onClose: () => void }) {
  const { tell } = useNotice();
  const [reason, setReason] = useState("");
  const [by, setBy] = useState(localStorage.getItem("pukka-by") ?? "");
  const [says, setSays] = useState<string | null>(null);
  const withdraw = useWrite(
    (body: Schemas["GateWithdrawn"]) => data(api.POST("/api/sessions/{id}/gates/withdrawn", { params: { path: { id: sessionId } }, body })),
    [sessionId],
  );
  return (
    <Dialog open onClose={onClose} title="Withdraw the reason and the consent" width="max-w-[520px]">
      <Form
        className="grid gap-3"
        onSubmit={() => {
          withdraw.mutate(
            { place, by, reason },
            {
              onSuccess: () => {
                tell({ says: "Gate closed again.", look: "plain", undo: true });
                onClose();
              },
              onError: (error) => setSays(error.message),
            },
          );
        }}
      >
        <p>The gate closes and an armed run is disarmed. Runs made while it was open stay as they are.</p>
        <TextField label="Why" autoFocus value={reason} onChange={(event) => setReason(event.target.value)} />
        <TextField label="Who withdraws it" value={by} onChange={(event) => setBy(event.target.value)} />
        {says && <p role="alert">{says}</p>}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Keep it open</Button>
          <Button type="submit" look="stop" disabled={withdraw.isPending}>
            Withdraw it
          </Button>
        </div>
      </Form>
    </Dialog>
  );
}
