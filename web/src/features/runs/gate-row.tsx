import { lazy, Suspense, useState } from "react";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Kbd } from "@/ui/kbd";
import { useNotice } from "@/ui/notice";
import { useKeys } from "@/ui/use-keys";
import { samePlace, type Cell, type Rung } from "../ladder/place";
import { BeforeRow } from "./before-row";

const WithdrawDialog = lazy(async () => ({ default: (await import("./withdraw-dialog")).WithdrawDialog }));

/** What stands in the way of the run. Past an open gate it is armed: what its gates were judged on is frozen from then on. */
export function GateRow({
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
  const busy = arm.isPending || disarm.isPending;
  const toggle = () => !busy && (here ? disarm : arm).mutate(undefined, { onError });
  const offers = !cell.shut && (cell.gates.length > 0 || armed != null);
  useKeys(offers ? { a: toggle } : {});
  if (armed && !here) {
    return (
      <BeforeRow
        name="Gate"
        label="Armed"
        action={
          <Button size="compact" disabled={busy} onClick={() => disarm.mutate(undefined, { onError })}>
            Disarm
          </Button>
        }
      >
        <b className="font-semibold text-copper">Armed elsewhere:</b> {armed.arming.says}.
      </BeforeRow>
    );
  }
  if (cell.shut) {
    return (
      <BeforeRow name="Gate" label="Gate shut">
        <b className="font-semibold text-stop">Needs a reason:</b> {cell.gates.find((gate) => !gate.open)?.title}
      </BeforeRow>
    );
  }
  if (!offers) return <BeforeRow name="Gate">None at this run.</BeforeRow>;
  return (
    <BeforeRow
      name="Gate"
      label={here ? "Armed" : "Gate open"}
      action={
        <Button size="compact" disabled={busy} onClick={toggle}>
          {here ? "Disarm" : "Arm"} <Kbd>A</Kbd>
        </Button>
      }
      more={
        <div className="pb-1 pl-[86px] text-note text-ink2">
          {here && (
            <dl className="flex flex-wrap gap-x-4 gap-y-0.5">
              {armed.arming.inputs.map((input) => (
                <div key={input.symbol + input.what} className="flex gap-1.5">
                  <dt>{input.what}</dt>
                  <dd className="num font-semibold text-ink">{input.value}</dd>
                </div>
              ))}
            </dl>
          )}
          {here && "Fixed until it is logged or disarmed. "}
          <button type="button" className="rounded underline underline-offset-3 hover:bg-hair" onClick={() => setWithdrawing(true)}>
            Withdraw the reason
          </button>
        </div>
      }
    >
      <b className={`font-semibold ${here ? "text-copper" : "text-ochre"}`}>{here ? "Armed." : "Open."}</b>{" "}
      {cell.gates.map((gate) => (
        <span key={gate.code}>
          {gate.title} {gate.reason} ({gate.by}).{" "}
        </span>
      ))}
      {withdrawing && (
        <Suspense>
          <WithdrawDialog sessionId={sessionId} place={place} onClose={() => setWithdrawing(false)} />
        </Suspense>
      )}
    </BeforeRow>
  );
}
