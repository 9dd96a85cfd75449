import type { Schemas } from "@/api/client";
import { Button } from "@/ui/button";
import { Figure } from "@/ui/figure";
import { Flag } from "@/ui/flag";

type Build = Schemas["Build"];

/** What was found for a load: the nearest first, each drawn, with its true ohms, its shares and what it takes. */
export function Builds({ answer, onChoose }: { answer: Schemas["LoadAnswer"]; onChoose?: (build: Build) => void }) {
  const { found, drawn } = answer;
  const wanted = `${String(found.wanted_ohm)}\u202fΩ`;
  const each = found.outputs > 1 ? ` at each of ${String(found.outputs)} outputs at once` : "";
  const nearest = found.simplest.length;
  const after = nearest + found.builds.length;
  const below = found.below ? drawn[after] : undefined;
  const above = found.above ? drawn[after + (found.below ? 1 : 0)] : undefined;
  return (
    <div className="grid gap-3">
      {found.builds.length === 0 ? (
        <Flag look="doubt" title="Not enough resistors.">
          {`There are not enough for ${String(found.outputs)} outputs.`}
        </Flag>
      ) : found.made ? (
        <p className="text-step text-ink2">
          {`${wanted}${each}: ${found.looked_at.toLocaleString("en").replaceAll(",", "\u202f")} ways to join up to ${String(found.most_parts)} resistors were tried.`}
        </p>
      ) : (
        <Flag look="doubt" title={`${wanted} cannot be made${each}.`}>
          {`The nearest is ${found.builds[0]?.ohm.text ?? ""}\u202fΩ. A claim made into ${wanted} can still be judged between the two that bracket it.`}
        </Flag>
      )}
      {found.mind.map((says) => (
        <Flag key={says} look="note" title="Note:">
          {says}
        </Flag>
      ))}
      {!found.made && (found.below || found.above) && (
        <>
          <h3 className="text-note font-firm text-ink2">The two that bracket it</h3>
          <ul className="grid gap-2">
            {found.below && <BuildLine build={found.below} svg={below} onChoose={onChoose} />}
            {found.above && <BuildLine build={found.above} svg={above} onChoose={onChoose} />}
          </ul>
        </>
      )}
      {found.simplest.length > 0 && (
        <>
          <h3 className="text-note font-firm text-ink2">The simplest</h3>
          <ul className="grid gap-2">
            {found.simplest.map((build, i) => (
              <BuildLine key={build.words} build={build} svg={drawn[i]} onChoose={onChoose} />
            ))}
          </ul>
        </>
      )}
      {found.builds.length > 0 && <h3 className="text-note font-firm text-ink2">The nearest</h3>}
      <ul className="grid gap-2">
        {found.builds.map((build, i) => (
          <BuildLine key={build.words + build.ohm.text} build={build} svg={drawn[nearest + i]} onChoose={onChoose} />
        ))}
      </ul>
    </div>
  );
}

function BuildLine({ build, svg, onChoose }: { build: Build; svg: string | undefined; onChoose: ((build: Build) => void) | undefined }) {
  const takes = (figure: Schemas["Figure"] | null | undefined) => (figure ? <Figure figure={figure} /> : "not known");
  return (
    <li className="grid items-center gap-x-4 gap-y-1.5 rounded-md border border-hair px-3 py-2 sm:grid-cols-[150px_1fr_auto]">
      <div className="flex items-baseline gap-2">
        <span className="num text-xl font-semibold">
          <Figure figure={build.ohm} />
        </span>
        <span className="text-sm text-ink2">
          <Figure figure={build.off} /> off
        </span>
      </div>
      <div className="min-w-0">
        <p className="font-semibold">{build.words}</p>
        <p className="text-sm text-ink2">
          {build.shares.map((share, i) => (
            <span key={share.label + share.ratio.text}>
              {i > 0 && ", "}
              {share.count > 1 ? `${String(share.count)} × ` : ""}
              {share.label} takes <Figure figure={share.ratio} />
              {share.count > 1 ? " each" : ""}
            </span>
          ))}
        </p>
        <p className="text-sm text-ink2">
          takes {takes(build.continuous_w)} continuously, {takes(build.ten_second_w)} for ten seconds, per output
        </p>
      </div>
      <div className="flex items-center gap-3 sm:flex-col sm:items-end">
        {svg && <div className="max-w-[260px] overflow-x-auto" dangerouslySetInnerHTML={{ __html: svg }} />}
        {onChoose && (
          <Button size="compact" onClick={() => onChoose(build)}>
            Use this
          </Button>
        )}
      </div>
    </li>
  );
}
