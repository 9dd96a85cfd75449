import type { Schemas } from "@/api/client";
import { Flag, type FlagLook } from "@/ui/flag";
import { Opens } from "@/ui/opens";
import { WorkingBody } from "@/ui/working-body";

type Sense = Schemas["Sense"];

const LOOKS: Record<Schemas["Weight"], FlagLook> = { unlikely: "stop", doubt: "doubt", note: "note" };

/** What to doubt before a watt is made; each sentence opens its working. */
export function SenseFlags({ found }: { found: Sense[] }) {
  return found.map((sense) => (
    <Flag key={sense.code + sense.claims.join()} look={LOOKS[sense.weight]} title={sense.title}>
      {sense.says}{" "}
      <Opens
        label={`Working: ${sense.working.title}`}
        className="rounded-sm font-semibold whitespace-nowrap underline decoration-dotted underline-offset-3"
        shows={() => <WorkingBody working={sense.working} />}
      >
        Working<span className="sr-only"> of: {sense.title}</span>
      </Opens>
    </Flag>
  ));
}

/** The fuses against the claims, as the program draws them. */
export function FusePicture({ sense }: { sense: Schemas["DrawnSense"] }) {
  const picture = sense.view.fuses;
  if (!picture || !sense.fuses) return null;
  return (
    <section>
      <h2 className="mb-2 text-note font-firm text-ink2">{picture.title}</h2>
      <div className="rounded-lg border border-line bg-sheet px-4 py-3.5">
        <div className="overflow-hidden" dangerouslySetInnerHTML={{ __html: sense.fuses }} />
        <p className="mt-2 text-note text-ink2">{picture.under}</p>
      </div>
    </section>
  );
}
