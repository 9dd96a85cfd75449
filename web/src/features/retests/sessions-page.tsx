import { useState } from "react";
import { api, data, type Schemas } from "@/api/client";
import { queries, useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { useNotice } from "@/ui/notice";
import { Failed, Loading } from "@/ui/states";
import { useAddress } from "@/ui/use-address";
import { useAmplifierInHand } from "../amplifier-layout";
import { ChangesTable } from "./changes-table";
import { RetestDialog } from "./retest-dialog";

type Line = Schemas["SessionLine"];

/** The sessions of an amplifier, and what changed from one to another. */
export function SessionsPage() {
  const { id } = useAmplifierInHand();
  const { text, set } = useAddress();
  const [opening, setOpening] = useState(false);
  const { data: list, error, refetch } = queries.useQuery("get", "/api/amplifiers/{id}/sessions", { params: { path: { id } } });
  const { take, taking } = useTakeInHand(id);
  if (error) return <Failed error={error} retry={() => void refetch()} />;
  if (!list) return <Loading />;
  const lines = list.items;
  const known = (wanted: string) => lines.find((line) => line.id === wanted)?.id;
  // The first against the last, until others are chosen.
  const from = known(text("from")) ?? lines[0]?.id ?? "";
  const to = known(text("to")) ?? lines.at(-1)?.id ?? "";
  return (
    <main className="mx-auto grid w-full max-w-[1240px] min-w-0 gap-5 px-5 py-5">
      <section aria-label="Sessions" className="min-w-0">
        <div className="flex flex-wrap items-end gap-3">
          <div className="min-w-0 flex-1">
            <h2 className="wide text-2xl font-strong">Sessions</h2>
            <p className="text-step text-ink2">
              Each time an amplifier comes to the bench is a session of its own. The one in hand is shown everywhere, judged on the shelf,
              and logged into.
            </p>
          </div>
          <Button look="main" onClick={() => setOpening(true)}>
            Retest
          </Button>
        </div>
        <Lines lines={lines} from={from} to={to} choose={set} take={take} taking={taking} />
      </section>
      {lines.length > 1 && <Changed amplifierId={id} from={from} to={to} />}
      {opening && <RetestDialog amplifierId={id} onClose={() => setOpening(false)} onOpened={(line) => set("to", line.id)} />}
    </main>
  );
}

function useTakeInHand(id: string) {
  const { tell } = useNotice();
  const write = useWrite((sessionId: string) =>
    data(api.PUT("/api/amplifiers/{id}/session-in-hand", { params: { path: { id } }, body: { session_id: sessionId } })),
  );
  const take = (line: Line) =>
    write.mutate(line.id, {
      onSuccess: () => tell({ says: `The session of ${line.on_words} is in hand.`, look: "plain" }),
      onError: (why) => tell({ says: why.message, look: "stop" }),
    });
  return { take, taking: write.isPending };
}

function Lines({
  lines,
  from,
  to,
  choose,
  take,
  taking,
}: {
  lines: readonly Line[];
  from: string;
  to: string;
  choose: (name: string, value: string) => void;
  take: (line: Line) => void;
  taking: boolean;
}) {
  const several = lines.length > 1;
  return (
    <div className="relative mt-3 overflow-x-auto">
      <table className="w-full border-y border-line">
        <thead>
          <tr className="text-left text-sm text-ink2">
            <th className="py-1.5 pr-3 font-medium">Measured</th>
            <th className="px-3 font-medium">Occasion</th>
            <th className="px-3 text-right font-medium">Runs</th>
            <th className="px-3 font-medium">Verdict</th>
            {several && <th className="px-3 text-center font-medium">Earlier</th>}
            {several && <th className="px-3 text-center font-medium">Later</th>}
            <th>
              <span className="sr-only">In hand</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <tr key={line.id} className="border-t border-hair">
              <td className="py-2 pr-3 font-semibold whitespace-nowrap">{line.on_words}</td>
              <td className="px-3">
                {line.occasion ?? <span className="text-ink2">{line === lines[0] ? "first test" : "not said"}</span>}
              </td>
              <td className="px-3 text-right">{line.runs}</td>
              <td className="px-3">{line.runs === 0 ? <span className="text-ink2">nothing run yet</span> : line.overall_word}</td>
              {several && (
                <td className="px-3 text-center">
                  <Pick name="earlier" line={line} chosen={from} other={to} choose={() => choose("from", line.id)} />
                </td>
              )}
              {several && (
                <td className="px-3 text-center">
                  <Pick name="later" line={line} chosen={to} other={from} choose={() => choose("to", line.id)} />
                </td>
              )}
              <td className="py-1 pl-3 text-right whitespace-nowrap">
                {line.in_hand ? (
                  <span className="font-semibold text-verdigris">in hand</span>
                ) : (
                  <Button size="low" disabled={taking} onClick={() => take(line)}>
                    Take in hand
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

function Pick({ name, line, chosen, other, choose }: { name: string; line: Line; chosen: string; other: string; choose: () => void }) {
  return (
    <input
      type="radio"
      name={name}
      className="size-4 accent-(--color-copper)"
      aria-label={`${line.on_words} as the ${name}`}
      checked={line.id === chosen}
      disabled={line.id === other}
      onChange={choose}
    />
  );
}

function Changed({ amplifierId, from, to }: { amplifierId: string; from: string; to: string }) {
  const {
    data: changes,
    error,
    refetch,
  } = queries.useQuery(
    "get",
    "/api/amplifiers/{id}/changes",
    { params: { path: { id: amplifierId }, query: { from, to } } },
    { placeholderData: (before) => before },
  );
  if (error) return <Failed error={error} retry={() => void refetch()} />;
  if (!changes) return <Loading />;
  return <ChangesTable changes={changes} />;
}
