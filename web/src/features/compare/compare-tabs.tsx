import { NavLink } from "react-router";

/** The two ways of looking over the whole shelf. */
export function CompareTabs() {
  const tab =
    "border-b-[3px] border-transparent pb-1 hover:border-line aria-[current=page]:border-copper aria-[current=page]:font-semibold";
  return (
    <nav aria-label="Compare" className="flex flex-wrap gap-5">
      <NavLink to="/compare" end className={tab}>
        Watts for the money
      </NavLink>
      <NavLink to="/compare/lessons" className={tab}>
        What the bench taught
      </NavLink>
    </nav>
  );
}
