import { useTitle } from "@/ui/use-title";
import { cellAt, MODE_WORDS } from "../ladder/place";
import { LiveBanner } from "../live/live-banner";
import { minutes } from "../runs/minutes";
import { useRestTimer } from "../runs/rest-row";
import { ClaimBar } from "./claim-bar";
import { useScreen, type Screen } from "./use-screen";

/** A second screen, read from three metres: the step, the timer, the readings, the result. */
export function WallPage() {
  const screen = useScreen();
  useTitle(screen?.amplifier, "Wall");
  if (!screen) return null;
  return (
    <div className="flex min-h-dvh flex-col">
      <Wall screen={screen} />
      <LiveBanner />
    </div>
  );
}

function Wall({ screen }: { screen: Screen }) {
  const { ladder, place } = screen;
  const next = ladder.next && cellAt(ladder, ladder.next);
  return (
    <main className="grid flex-1 content-between gap-[3vh] px-[4vw] py-[4vh]">
      <header className="flex flex-wrap items-baseline justify-between gap-x-[4vw] text-wall-head">
        <h1 className="font-firm">{screen.amplifier}</h1>
        <span className="num text-ink2">
          {ladder.logged} of {ladder.planned} logged
        </span>
      </header>
      <section aria-label={screen.live ? "Live run" : "Last run"} className="grid gap-[2vh]">
        <h2 className="text-wall-step leading-tight font-strong">
          {place ? `${place.rung.label} ${place.rung.words}, ${place.cell.mode}` : "Nothing run yet"}
          {screen.live && <span className="ml-[1.5vw] text-copper">live</span>}
        </h2>
        <dl className="flex flex-wrap items-end gap-x-[4vw] gap-y-[2vh]">
          {screen.figures.map((shown, n) => (
            <div key={shown.name}>
              <dt className="text-wall-note text-ink2">{shown.name}</dt>
              <dd
                className={`num leading-none font-semibold whitespace-nowrap ${n === 0 ? "text-wall-watts" : "text-wall-figure"} ${shown.warn ? "text-stop" : ""}`}
              >
                {shown.text}
                <span className="ml-[0.5vw] text-mark font-normal text-ink2">{shown.unit}</span>
              </dd>
            </div>
          ))}
        </dl>
        {place && screen.ofClaim !== null && (
          <>
            <ClaimBar share={screen.ofClaim} claim={place.rung.claim ?? ""} className="h-[3.5vh]" />
            <p className="text-wall-note text-ink2">claim {place.rung.claim}</p>
          </>
        )}
        {screen.says && <p className="text-wall-head font-semibold">{screen.says}</p>}
      </section>
      <footer className="flex flex-wrap items-baseline justify-between gap-x-[4vw] border-t-2 border-line pt-[2vh] text-wall-head">
        <span>
          {next ? `Next: ${next.rung.label} ${next.rung.words}, ${MODE_WORDS[next.cell.mode].toLowerCase()}` : "All runs are logged."}
        </span>
        {!screen.live && next && <Rest sessionId={screen.sessionId} />}
      </footer>
    </main>
  );
}

function Rest({ sessionId }: { sessionId: string }) {
  const { rest, left } = useRestTimer(sessionId);
  if (rest?.ready ?? true) return <b className="font-semibold text-verdigris">Rested</b>;
  return <b className="num font-semibold">{left > 0 ? `rest ${minutes(left)}` : "let it rest"}</b>;
}
