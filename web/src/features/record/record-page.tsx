import { Link, useSearchParams } from "react-router";
import { api, atRevision, data } from "@/api/client";
import { queries, useWrite } from "@/api/queries";
import { buttonClass } from "@/ui/button";
import { Margin } from "@/ui/notice";
import { Failed, Loading } from "@/ui/states";
import { useAmplifierInHand } from "../amplifier-layout";
import { Guesses } from "./guesses";
import { InsideFigures } from "./inside-figures";
import { Relatives } from "./relatives";
import { SectionForm } from "./section-form";
import { INSIDE, LOAN, OPINION, PRICES, TAGS, TOUR } from "./amplifier-spec";
import { FOOTAGE, LISTENING, POST_MORTEM } from "./session-spec";
import type { Section } from "./spec";

/** Parts of the record, by the word in the address. Those of the amplifier stay with it through all its sessions. */
const PARTS: Record<string, { section: Section; of: "amplifier" | "session" }> = {
  inside: { section: INSIDE, of: "amplifier" },
  tour: { section: TOUR, of: "amplifier" },
  likes: { section: OPINION, of: "amplifier" },
  prices: { section: PRICES, of: "amplifier" },
  loan: { section: LOAN, of: "amplifier" },
  tags: { section: TAGS, of: "amplifier" },
  listening: { section: LISTENING, of: "session" },
  died: { section: POST_MORTEM, of: "session" },
  footage: { section: FOOTAGE, of: "session" },
};

const GUESSES = "guesses";

/** The whole record: what is known of an amplifier beside its claims and its readings. */
export function RecordPage() {
  const inHand = useAmplifierInHand();
  const { id, session_id: sessionId } = inHand;
  const [params] = useSearchParams();
  const asked = params.get("part") ?? "inside";
  const part = PARTS[asked];
  const { data: of, error, refetch } = queries.useQuery("get", "/api/sessions/{id}/record", { params: { path: { id: sessionId } } });
  const saveAmplifier = useWrite(
    (patch: object) =>
      data(api.PATCH("/api/amplifiers/{id}", { params: { path: { id }, header: atRevision(inHand.revision) }, body: patch as never })),
    [id],
  );
  const saveSession = useWrite(
    (patch: object) =>
      data(
        api.PATCH("/api/sessions/{id}/record", {
          params: { path: { id: sessionId }, header: atRevision(of?.revision ?? 0) },
          body: patch as never,
        }),
      ),
    [sessionId],
  );
  if (error) return <Failed error={error} retry={() => void refetch()} />;
  if (!of) return <Loading />;
  const ofAmplifier = part?.of === "amplifier";
  return (
    <main className="mx-auto grid w-full max-w-[1240px] min-w-0 items-start gap-6 px-5 py-5 lg:grid-cols-[190px_minmax(0,1fr)]">
      <nav aria-label="Parts of the record" className="grid gap-0.5 max-lg:grid-cols-2 lg:sticky lg:top-4">
        <h2 className="px-2.5 pb-1 text-lg font-firm max-lg:col-span-2">The record</h2>
        {[...Object.entries(PARTS).map(([word, { section }]) => [word, section.title] as const), [GUESSES, "Guesses"] as const].map(
          ([word, title]) => (
            <Link
              key={word}
              to={`?part=${word}`}
              replace
              aria-current={word === asked ? "page" : undefined}
              className="rounded-md border-l-[3px] border-transparent px-2.5 py-1.5 hover:bg-hair aria-[current=page]:border-copper aria-[current=page]:bg-sheet aria-[current=page]:font-semibold"
            >
              {title}
            </Link>
          ),
        )}
        <Link className={`${buttonClass("plain", "low")} mt-3 justify-self-start`} to="../sessions" relative="path">
          Sessions and retests
        </Link>
        <Link className={`${buttonClass("plain", "low")} justify-self-start`} to="../edit" relative="path">
          Name, fuses, supply
        </Link>
        <Margin className="mt-3" />
      </nav>
      <section aria-label={part?.section.title ?? "Guesses"} className="grid min-w-0 gap-4">
        {part ? (
          <>
            <div>
              <h3 className="wide text-2xl font-strong">{part.section.title}</h3>
              {part.section.hint && <p className="text-step text-ink2">{part.section.hint}</p>}
            </div>
            {asked === "inside" && <InsideFigures figures={of.inside} />}
            {asked === "likes" && <Relatives names={(inHand.amplifier.relations ?? []).map((relation) => relation.name)} />}
            <SectionForm
              key={`${asked} ${ofAmplifier ? id : sessionId}`}
              section={part.section}
              record={ofAmplifier ? inHand.amplifier : of.record}
              save={(patch) => (ofAmplifier ? saveAmplifier : saveSession).mutateAsync(patch)}
            />
          </>
        ) : (
          <Guesses sessionId={sessionId} of={of} />
        )}
      </section>
    </main>
  );
}
