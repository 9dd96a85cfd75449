import type { Schemas } from "@/api/client";
import { Figure } from "@/ui/figure";

/** What an audience wants to know, each line with its figure. */
export function TellCard({ view }: { view: Schemas["VerdictView"] }) {
  if (view.tell.length === 0) return null;
  return (
    <section className="rounded-lg border border-line bg-sheet px-4 py-3.5">
      <h3 className="text-note font-firm text-ink2">What to tell your audience</h3>
      <ul className="mt-1.5 grid list-disc gap-1.5 pl-[17px]">
        {view.tell.map((tell) => (
          <li key={tell.says}>
            <Told tell={tell} />
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The sentence with its figure as a figure, so that it opens. */
function Told({ tell }: { tell: Schemas["Tell"] }) {
  const [before, ...rest] = tell.says.split(tell.figure.text);
  return (
    <>
      {before}
      <Figure figure={tell.figure} unit={false} />
      {rest.join(tell.figure.text)}
    </>
  );
}
