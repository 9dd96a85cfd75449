import type { Schemas } from "@/api/client";
import { Disclosure } from "@/ui/disclosure";
import { AmplifierLine } from "./amplifier-line";

type Maker = Schemas["MakerRow"];

/** How the claims of each maker came out. */
export function Makers({ makers }: { makers: readonly Maker[] }) {
  return (
    <section aria-label="Makers" className="min-w-0">
      <h2 className="text-lg font-firm">Makers, by how their claims came out</h2>
      <ul className="mt-1">
        {makers.map((maker) => (
          <li key={maker.make} className="grid grid-cols-[minmax(0,1fr)_auto] items-start gap-x-3 border-t border-line py-2">
            <div className="flex min-w-0 flex-wrap items-baseline gap-x-3">
              <b className="font-firm">{maker.make}</b>
              <span className="text-step text-ink2">
                {maker.tested === 0 ? "no claim could be told" : `${String(maker.kept)} of ${String(maker.tested)} claims kept`}
                {maker.short_share && <>, {maker.short_share.says} short</>}
              </span>
            </div>
            <Years years={maker.years.filter((year) => year.tested > 0)} />
            <Disclosure className="min-w-0" says={maker.models.length === 1 ? "1 model" : `${String(maker.models.length)} models`}>
              <ul className="grid gap-0.5 pt-1">
                {maker.models.map((model) => (
                  <AmplifierLine
                    key={model.id}
                    id={model.id}
                    name={model.model}
                    says={[model.on, model.tested > 0 ? `${String(model.kept)} of ${String(model.tested)} kept` : null, model.overall_word]}
                  />
                ))}
              </ul>
            </Disclosure>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** A bar a year: what was kept, of what was tested. */
function Years({ years }: { years: Maker["years"] }) {
  const most = Math.max(1, ...years.map((year) => year.tested));
  return (
    <span className="row-span-2 flex items-end gap-2">
      {years.map((year) => (
        <span
          key={year.year}
          className="grid justify-items-center text-sm text-ink2"
          title={`${String(year.year)}: ${String(year.kept)} of ${String(year.tested)} kept`}
        >
          <span className="flex h-5 w-3 flex-col justify-end bg-hair" aria-hidden>
            <i className="block bg-stop" style={{ height: `${String((100 * (year.tested - year.kept)) / most)}%` }} />
            <i className="block bg-verdigris" style={{ height: `${String((100 * year.kept) / most)}%` }} />
          </span>
          <small>
            {year.year}
            <span className="sr-only">
              : {year.kept} of {year.tested} kept
            </span>
          </small>
        </span>
      ))}
    </span>
  );
}
