import { NavLink } from "react-router";
import type { Schemas } from "@/api/client";

type Summary = Schemas["Summary"];

/** The amplifier in hand, and how far it is at each station. */
export function Spine({ id, summary }: { id: string; summary: Summary }) {
  const stations = [
    { to: "claims", name: "Claims", word: summary.claims_word, done: summary.claims > 0 },
    { to: "plan", name: "Plan", word: summary.plan_word, done: summary.planned > 0 && summary.logged > 0 },
    {
      to: "runs",
      name: "Runs",
      word: summary.runs_word,
      done: summary.planned > 0 && summary.logged === summary.planned,
    },
    {
      to: "verdict",
      name: "Verdict",
      word: summary.verdict_word,
      done: summary.overall != null && !summary.provisional && summary.overall !== "open",
    },
    { to: "sheet", name: "Publish", word: summary.publish_word, done: false },
  ];
  return (
    <section
      aria-label="The amplifier in hand"
      className="no-print flex min-h-[58px] flex-none flex-wrap items-stretch border-b border-line bg-sheet"
    >
      <div className="w-full border-line px-5 py-[9px] md:w-[282px] md:border-r">
        <h1 className="truncate text-body leading-tight font-bold" style={{ fontStretch: "104%" }}>
          {summary.name}
        </h1>
        <span className="text-sm text-ink2">{summary.subtitle}</span>
      </div>
      <nav aria-label="Stations" className="grid min-w-0 flex-1 basis-full grid-cols-5 md:basis-0">
        {stations.map((station) => (
          <NavLink
            key={station.to}
            to={`/amplifiers/${id}/${station.to}`}
            className={({ isActive }) =>
              `relative min-w-0 border-r border-hair px-1.5 py-2.5 last:border-r-0 md:px-4 ${isActive ? "bg-paper after:absolute after:inset-x-0 after:-bottom-px after:h-[3px] after:bg-copper" : "hover:bg-paper"}`
            }
          >
            <b className="block leading-tight font-firm text-ink">
              {station.done && <span className="mr-1 text-verdigris">✓</span>}
              {station.name}
            </b>
            <small className="block truncate text-sm text-ink2">{station.word}</small>
          </NavLink>
        ))}
      </nav>
    </section>
  );
}
