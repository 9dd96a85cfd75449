import { useState } from "react";
import { Form } from "@/ui/form";
import { api, data, Refusal, wordsOf, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { CONTROL, Surround } from "@/ui/field";
import { useNotice } from "@/ui/notice";

/** Guesses of the clean watts at the headline claim: sealed before the first run, opened after. */
export function Guesses({ sessionId, of }: { sessionId: string; of: Schemas["SessionRecordView"] }) {
  const { guesses } = of;
  return (
    <>
      <div>
        <h3 className="wide text-2xl font-strong">Guesses</h3>
        <p className="text-step text-ink2">
          Of the clean watts at the largest claim. Sealed before the first run; show the hash, and nobody can change a guess afterwards.
        </p>
      </div>
      {guesses ? (
        <Sealed sessionId={sessionId} guesses={guesses} />
      ) : of.can_seal ? (
        <Seal sessionId={sessionId} />
      ) : (
        <p>None were sealed before the first run.</p>
      )}
    </>
  );
}

function Seal({ sessionId }: { sessionId: string }) {
  const [text, setText] = useState("");
  const { tell } = useNotice();
  const seal = useWrite(
    (list: string) => data(api.POST("/api/sessions/{id}/guesses", { params: { path: { id: sessionId } }, body: { text: list } })),
    [sessionId],
  );
  const error = seal.error ? problemsOf(seal.error) : undefined;
  return (
    <Form
      className="grid gap-3"
      onSubmit={() => {
        seal.mutate(text, { onSuccess: () => tell({ says: "Guesses sealed.", look: "plain", undo: true }) });
      }}
    >
      <Surround
        id="guesses"
        label="The list, one a line"
        hint="A name, the watts, and yes where they agreed to be named: Wren 950 yes"
        error={error}
      >
        <textarea
          id="guesses"
          rows={10}
          className={`num ${CONTROL}`}
          aria-invalid={error ? true : undefined}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      </Surround>
      <Button type="submit" look="main" className="justify-self-start" disabled={seal.isPending || text.trim() === ""}>
        Seal them
      </Button>
    </Form>
  );
}

function problemsOf(error: Error): string {
  const problems = error instanceof Refusal ? error.problems : [];
  return problems.length > 0 ? problems.map((problem) => problem.says).join(" ") : wordsOf(error);
}

function Sealed({ sessionId, guesses }: { sessionId: string; guesses: Schemas["GuessesView"] }) {
  const { tell } = useNotice();
  const open = useWrite(() => data(api.POST("/api/sessions/{id}/guesses/opening", { params: { path: { id: sessionId } } })), [sessionId]);
  const count = `${String(guesses.count)} ${guesses.count === 1 ? "guess" : "guesses"}`;
  return (
    <div className="grid gap-4">
      <p>
        {guesses.can_open ? `${count} sealed. ` : ""}Hash: <code className="num text-sm break-all">{guesses.sha256}</code>
      </p>
      {guesses.salt && (
        <p className="text-step text-ink2">
          SHA-256 of the salt <code className="num break-all">{guesses.salt}</code> and a line a guess: name, tab, watts.
        </p>
      )}
      {guesses.can_open && (
        <Button
          look="main"
          className="justify-self-start"
          disabled={open.isPending}
          onClick={() =>
            open.mutate(undefined, {
              onSuccess: () => tell({ says: "Guesses opened.", look: "plain", undo: true }),
              onError: (error) => tell({ says: error.message, look: "stop" }),
            })
          }
        >
          Open them
        </Button>
      )}
      {guesses.scores.guesses.length > 0 && (
        <table className="w-full max-w-[620px] text-left">
          <caption className="pb-2 text-left text-step text-ink2">
            {guesses.scores.measured ? `Measured: ${guesses.scores.measured}` : "Not measured yet."}
          </caption>
          <thead>
            <tr className="border-b border-line text-sm text-ink2">
              <th scope="col">Guess by</th>
              <th scope="col" className="text-right">
                Watts
              </th>
              <th scope="col" className="text-right">
                Off
              </th>
            </tr>
          </thead>
          <tbody>
            {guesses.scores.guesses.map((guess, n) => (
              <tr key={n} className="border-b border-hair">
                <td className={guess.nearest ? "font-semibold" : ""}>
                  {guess.by}
                  {guess.nearest && <span className="ml-2 font-semibold text-verdigris">nearest</span>}
                </td>
                <td className="num text-right">{guess.watts}</td>
                <td className="num text-right">{guess.off ?? ""}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}
