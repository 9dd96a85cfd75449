import { Button } from "@/ui/button";
import { Kbd } from "@/ui/kbd";
import { LadderCell } from "./ladder-cell";
import { MODE_WORDS, MODES, nextFree, samePlace, type Ladder, type Place, type Rung } from "../ladder/place";

/** The load ladder: a rung a load, a cell a mode, highest load first. */
export function LadderView({ ladder, place, go, onAdd }: { ladder: Ladder; place: Place; go: (place: Place) => void; onAdd: () => void }) {
  const then = nextFree(ladder, place);
  const groups = grouped(ladder.rungs);
  return (
    <section data-ladder aria-label="Load ladder" className="min-h-[150px] lg:flex-auto lg:shrink lg:grow-0 lg:overflow-auto">
      {groups.map((group, i) => (
        <div key={group.words} className="mb-1.5">
          <div className="flex items-baseline justify-between">
            <h2 className="text-note font-firm text-ink2">{i === 0 ? `Load ladder, ${group.words}` : group.words}</h2>
            {i === 0 && (
              <span className="text-sm text-ink2">
                {ladder.logged} of {ladder.planned} logged
              </span>
            )}
          </div>
          <div className="mt-1.5 mb-1 grid grid-cols-[58px_1fr_1fr_1fr] gap-[5px] text-sm text-ink2">
            <span />
            {MODES.map((mode) => (
              <div key={mode} className="pl-2.5">
                {MODE_WORDS[mode]}
              </div>
            ))}
          </div>
          {group.rungs.map((rung) => (
            <div key={rung.key} className="mb-[5px] grid grid-cols-[58px_1fr_1fr_1fr] gap-[5px]">
              <div className={`pt-2 ${rung.wiring.kind === "mixed" ? "" : "whitespace-nowrap"}`}>
                <b
                  className={`leading-tight font-strong ${rung.wiring.kind === "mixed" ? "block text-base" : rung.label.length > 4 ? "text-body" : "text-xl"}`}
                  style={{ fontStretch: "106%" }}
                >
                  {rung.label}
                </b>
                <small className="block text-fine font-medium text-ink3">{rung.real}</small>
              </div>
              {rung.cells.map((cell) => {
                const own = { rung: rung.key, mode: cell.mode };
                return (
                  <LadderCell
                    key={cell.mode}
                    rung={rung}
                    cell={cell}
                    now={samePlace(own, place)}
                    then={samePlace(own, then)}
                    onGo={() => go(own)}
                  />
                );
              })}
            </div>
          ))}
        </div>
      ))}
      <div className="flex items-center justify-between text-sm text-ink2">
        <span>upright mark: the claim</span>
        <Button size="compact" onClick={onAdd}>
          Add a load <Kbd>L</Kbd>
        </Button>
      </div>
    </section>
  );
}

/** Rungs of one wiring and tone stand under one heading. */
function grouped(rungs: Rung[]): { words: string; rungs: Rung[] }[] {
  const groups: { words: string; rungs: Rung[] }[] = [];
  for (const rung of rungs) {
    const last = groups.at(-1);
    if (last?.words === rung.words) last.rungs.push(rung);
    else groups.push({ words: rung.words, rungs: [rung] });
  }
  return groups;
}
