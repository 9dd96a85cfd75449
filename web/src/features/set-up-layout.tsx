import { Suspense } from "react";
import { NavLink, Outlet, useLocation } from "react-router";
import { Loading } from "@/ui/states";
import { useTitle } from "@/ui/use-title";

const PARTS = [
  { to: "benches", name: "Bench profiles", word: "supply, loads, meters, leads" },
  { to: "instruments", name: "Instruments", word: "what Pukka reads and drives" },
  { to: "backups", name: "Backups", word: "copies of the records" },
];

/** What is entered once and used at every amplifier. */
export function SetUpLayout() {
  const { pathname } = useLocation();
  const here = PARTS.find((part) => pathname.endsWith(part.to));
  useTitle(here?.name, "Set-up");
  return (
    <>
      <nav aria-label="Set-up" className="no-print flex flex-none gap-x-8 overflow-x-auto border-b border-line bg-sheet px-4 sm:px-5">
        {PARTS.map((part) => (
          <NavLink
            key={part.to}
            to={`/set-up/${part.to}`}
            className="border-b-[3px] border-transparent py-2.5 leading-tight whitespace-nowrap hover:border-line aria-[current=page]:border-copper"
          >
            <b className="block font-firm">{part.name}</b>
            <small className="text-sm text-ink2">{part.word}</small>
          </NavLink>
        ))}
      </nav>
      <Suspense key={pathname} fallback={<Loading />}>
        <Outlet />
      </Suspense>
    </>
  );
}
