import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Disclosure } from "@/ui/disclosure";
import { Kbd } from "@/ui/kbd";
import { useNotice } from "@/ui/notice";
import { useKeys } from "@/ui/use-keys";
import { day } from "@/ui/dates";

/** Settles the verdict as it stands. */
function useSettle(sessionId: string) {
  const { tell } = useNotice();
  const settle = useWrite(() => data(api.POST("/api/sessions/{id}/settled", { params: { path: { id: sessionId } } })), [sessionId]);
  return {
    busy: settle.isPending,
    settle: () =>
      settle.mutate(undefined, {
        onSuccess: () => tell({ says: "Verdict locked as it stands.", look: "plain", undo: true }),
        onError: (error) => tell({ says: error.message, look: "stop" }),
      }),
  };
}

/** The verdict that was settled, whether it stands, and what has changed since; with the button to settle it. */
export function SettledBar({
  sessionId,
  settled,
  anyRun,
  provisional,
}: {
  sessionId: string;
  settled: Schemas["SettledView"] | null;
  anyRun: boolean;
  provisional: boolean;
}) {
  const { settle, busy } = useSettle(sessionId);
  const stands = settled !== null && settled.changes.length === 0;
  useKeys({ s: () => !busy && anyRun && !stands && settle() });
  if (settled && stands) {
    return (
      <p className="mt-4 rounded-md bg-verdigris-wash px-3 py-2 text-step">
        <b className="mr-2 font-bold">Locked on {day(settled.at)}.</b>
        By rules version {settled.rules_version}. A run, a claim or a mark more opens it again.
      </p>
    );
  }
  if (settled) {
    return (
      <section aria-label="Changed since it was locked" className="mt-4 rounded-md bg-ochre-wash px-3 py-2.5 text-step">
        <div className="flex flex-wrap items-start justify-between gap-x-4 gap-y-2">
          <p>
            <b className="mr-2 font-bold">
              Locked on {day(settled.at)} as {settled.overall_word.toLowerCase()}, and open again.
            </b>
            Since then:
          </p>
          <Button size="low" disabled={busy} onClick={settle}>
            Lock it again <Kbd>S</Kbd>
          </Button>
        </div>
        <ul className="mt-1 grid list-disc gap-0.5 pl-[17px]">
          {settled.changes.map((change) => (
            <li key={change}>{change}</li>
          ))}
        </ul>
        <Disclosure className="mt-1.5" says={<b className="font-semibold">What it said then</b>}>
          <p className="mt-1 max-w-[760px]">{settled.sentence}</p>
        </Disclosure>
      </section>
    );
  }
  if (!anyRun) return null;
  return (
    <div className="no-print mt-4 flex flex-wrap items-center gap-x-3 gap-y-1 text-sm text-ink2">
      <Button look="main" disabled={busy} onClick={settle}>
        Lock the verdict <Kbd>S</Kbd>
      </Button>
      keeps it as it stands today{provisional && ", provisional"}; later runs unlock it and show what changed
    </div>
  );
}
