import { Popover } from "radix-ui";
import type { Schemas } from "@/api/client";
import { Flag, type FlagLook } from "@/ui/flag";
import { WorkingBody } from "@/ui/figure";

type Sense = Schemas["Sense"];

const LOOKS: Record<Schemas["Weight"], FlagLook> = { unlikely: "stop", doubt: "doubt", note: "note" };

/** What to doubt before a watt is made; each sentence opens its working. */
export function SenseFlags({ found }: { found: Sense[] }) {
  return found.map((sense) => (
    <Flag key={sense.code + sense.claims.join()} look={LOOKS[sense.weight]} title={sense.title}>
      {sense.says}{" "}
      <Popover.Root>
        <Popover.Trigger className="rounded-sm font-semibold whitespace-nowrap underline decoration-dotted underline-offset-3">
          Working<span className="sr-only"> of: {sense.title}</span>
        </Popover.Trigger>
        <Popover.Portal>
          <Popover.Content
            sideOffset={6}
            collisionPadding={12}
            aria-label={`Working: ${sense.working.title}`}
            className="z-50 w-[360px] max-w-[calc(100vw-24px)] rounded-lg border border-edge bg-sheet p-4 text-ink shadow-lg"
          >
            <WorkingBody working={sense.working} />
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
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
