import { useState } from "react";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { Kbd } from "@/ui/kbd";
import { useNotice } from "@/ui/notice";
import { useKeys } from "@/ui/use-keys";
import { samePlace, type Cell, type Rung } from "../ladder/place";

/** A run past an open gate is armed before it starts: what its gates were judged on is frozen from then on. */
export function ArmedStrip({
  sessionId,
  rung,
  cell,
  armed,
}: {
  sessionId: string;
  rung: Rung;
  cell: Cell;
  armed: Schemas["ArmedRun"] | null | undefined;
}) {
  const { tell } = useNotice();
  const [withdrawing, setWithdrawing] = useState(false);
  const params = { params: { path: { id: sessionId } } };
  const place = { rung: rung.key, mode: cell.mode };
  const onError = (error: Error) => tell({ says: error.message, look: "stop" });
  const arm = useWrite(() => data(api.POST("/api/sessions/{id}/armed", { ...params, body: place })), [sessionId]);
  const disarm = useWrite(() => data(api.DELETE("/api/sessions/{id}/armed", params)), [sessionId]);
  const here = armed != null && samePlace(armed.arming.place, place);
  const toggle = () => (here ? disarm : arm).mutate(undefined, { onError });
  const offers = cell.gates.length > 0 || armed != null;
  useKeys(offers ? { a: toggle } : {});
  if (!offers) return null;
  if (armed && !here) {
    return (
      <section aria-label="Armed" className="mt-3 flex flex-wrap items-center gap-3 rounded-md bg-copper-wash px-3 py-2 text-step">
        <b className="font-bold">Armed elsewhere: {armed.arming.says}.</b>
        <Button size="compact" disabled={disarm.isPending} onClick={() => disarm.mutate(undefined, { onError })}>
          Disarm it
        </Button>
      </section>
    );
  }
  return (
    <section
      aria-label={here ? "Armed" : "Gate open"}
      className={`mt-3 rounded-md px-3 py-2.5 text-step leading-snug ${here ? "border-2 border-copper bg-copper-wash" : "bg-ochre-wash"}`}
    >
      <b className="font-bold">{here ? "Armed. " : "The gate is open. "}</b>
      {cell.gates.map((gate) => (
        <span key={gate.code}>
          {gate.title} {gate.reason} ({gate.by}).{" "}
        </span>
      ))}
      {here && (
        <dl className="my-1.5 flex flex-wrap gap-x-4 gap-y-0.5 text-note">
          {armed.arming.inputs.map((input) => (
            <div key={input.symbol + input.what} className="flex gap-1.5">
              <dt className="text-ink2">{input.what}</dt>
              <dd className="num font-semibold">{input.value}</dd>
            </div>
          ))}
        </dl>
      )}
      <div className="mt-1.5 flex flex-wrap items-center gap-2">
        <Button size="compact" disabled={arm.isPending || disarm.isPending} onClick={toggle}>
          {here ? "Disarm" : "Arm this run"} <Kbd>A</Kbd>
        </Button>
        <Button look="quiet" size="compact" onClick={() => setWithdrawing(true)}>
          Take the reason back
        </Button>
        {here && <span className="text-sm text-ink2">These stand until it is logged or disarmed.</span>}
      </div>
      {withdrawing && <WithdrawDialog sessionId={sessionId} place={place} onClose={() => setWithdrawing(false)} />}
    </section>
  );
}

function WithdrawDialog({ sessionId, place, onClose }: { sessionId: string; place: Schemas["Place"]; onClose: () => void }) {
  const { tell } = useNotice();
  const [reason, setReason] = useState("");
  const [by, setBy] = useState(localStorage.getItem("pukka-by") ?? "");
  const [says, setSays] = useState<string | null>(null);
  const withdraw = useWrite(
    (body: Schemas["GateWithdrawn"]) => data(api.POST("/api/sessions/{id}/gates/withdrawn", { params: { path: { id: sessionId } }, body })),
    [sessionId],
  );
  return (
    <Dialog open onClose={onClose} title="Take the reason and the consent back" width="max-w-[520px]">
      <form
        noValidate
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          withdraw.mutate(
            { place, by, reason },
            {
              onSuccess: () => {
                tell({ says: "The gate is shut again.", look: "plain", undo: true });
                onClose();
              },
              onError: (error) => setSays(error.message),
            },
          );
        }}
      >
        <p>The gate shuts and what is armed is disarmed. Runs that were made while it was open stay as they are.</p>
        <TextField label="Why" autoFocus value={reason} onChange={(event) => setReason(event.target.value)} />
        <TextField label="Who takes it back" value={by} onChange={(event) => setBy(event.target.value)} />
        {says && <p role="alert">{says}</p>}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it open</Button>
          <Button type="submit" look="stop" disabled={withdraw.isPending}>
            Take it back
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
