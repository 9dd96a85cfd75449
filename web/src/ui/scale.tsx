import { NavLink, useLocation } from "react-router";
import type { Schemas } from "@/api/client";

type Summary = Schemas["Summary"];

interface Station {
  to: string;
  name: string;
  /** How far it is. */
  word: string;
  done: boolean;
}

const stationsOf = (summary: Summary): Station[] => [
  { to: "claims", name: "Claims", word: summary.claims_word, done: summary.claims > 0 },
  { to: "plan", name: "Plan", word: summary.plan_word, done: summary.planned > 0 && summary.logged > 0 },
  { to: "runs", name: "Runs", word: summary.runs_word, done: summary.planned > 0 && summary.logged === summary.planned },
  {
    to: "verdict",
    name: "Verdict",
    word: summary.verdict_word,
    done: summary.overall != null && !summary.provisional && summary.overall !== "open",
  },
  { to: "publish", name: "Publish", word: summary.publish_word, done: false },
];

/** The amplifier in hand on a measuring rule: a graduation a station, a copper needle where you are. */
export function Scale({ id, summary, session }: { id: string; summary: Summary; session: string }) {
  const { pathname } = useLocation();
  const stations = stationsOf(summary);
  const here = stations.find((station) => pathname.includes(`/${station.to}`, `/amplifiers/${id}`.length));
  return (
    <section
      aria-label="The amplifier in hand"
      className="no-print flex h-[68px] flex-none flex-col border-b border-line bg-sheet md:h-[62px] md:flex-row md:low:h-[46px]"
    >
      <div className="flex min-w-0 flex-none items-baseline gap-x-3 px-4 pt-1.5 sm:px-5 md:block md:w-[248px] md:pt-[9px] md:low:pt-1 lg:w-(--side)">
        <h1 className="min-w-0 truncate text-body leading-tight font-bold" style={{ fontStretch: "104%" }}>
          {summary.name}
        </h1>
        <span className="flex min-w-0 gap-2 text-sm text-ink2 max-md:hidden">
          <span className="min-w-0 truncate">{summary.subtitle}</span>
          <NavLink to={`/amplifiers/${id}/sessions`} className="ml-auto flex-none underline underline-offset-2 hover:text-ink">
            {session}
          </NavLink>
        </span>
        <span className="ml-auto flex-none text-sm text-ink2 md:hidden">{here?.word}</span>
      </div>
      <nav aria-label="Stations" className="rule relative mx-4 grid min-w-0 flex-1 grid-cols-5 sm:mx-6">
        {stations.map((station) => (
          <NavLink key={station.to} to={`/amplifiers/${id}/${station.to}`} className="group relative min-w-0 rounded-sm">
            <Mark done={station.done} />
            <span className="block h-full min-w-0 pt-4 pl-2.5 leading-[1.15] group-hover:bg-paper md:low:pt-2.5">
              <b className="block truncate text-base font-firm text-ink group-aria-[current=page]:font-strong">{station.name}</b>
              <small className="block truncate text-sm text-ink2 max-md:hidden">{station.word}</small>
            </span>
            {station.done && <span className="sr-only">, done</span>}
          </NavLink>
        ))}
      </nav>
    </section>
  );
}

/** A graduation: verdigris with a dot where it is done, the needle where you are. */
function Mark({ done }: { done: boolean }) {
  return (
    <span aria-hidden>
      <i
        className={`absolute top-0 left-0 h-[30px] w-[1.5px] group-aria-[current=page]:h-full group-aria-[current=page]:w-[3px] group-aria-[current=page]:bg-copper ${done ? "bg-verdigris" : "bg-ink3"}`}
      />
      {done && (
        <i className="absolute top-[26px] -left-[2.5px] size-[6.5px] rounded-full bg-verdigris group-aria-[current=page]:hidden md:low:top-[22px]" />
      )}
      <i className="absolute top-0 -left-[5.5px] hidden border-7 border-b-0 border-transparent border-t-copper group-aria-[current=page]:block" />
    </span>
  );
}
