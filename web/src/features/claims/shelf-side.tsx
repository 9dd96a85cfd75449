import { Link } from "react-router";
import { useShelf } from "@/api/queries";
import { buttonClass } from "@/ui/button";

/** The shelf beside an amplifier, for going from one to the next. */
export function ShelfSide({ id }: { id: string }) {
  const shelf = useShelf();
  return (
    <nav aria-label="On the shelf" className="hidden border-r border-line bg-sheet px-3 py-3.5 lg:block">
      <h2 className="px-3 pb-1.5 text-note font-firm text-ink2">On the shelf</h2>
      <ul className="grid max-h-[calc(100vh-200px)] gap-1 overflow-auto">
        {shelf.data?.amplifiers.map((item) => (
          <li key={item.id}>
            <Link
              to={`/amplifiers/${item.id}/claims`}
              aria-current={item.id === id ? "page" : undefined}
              className="block rounded-md px-3 py-[7px] hover:bg-paper aria-[current]:bg-verdigris-wash"
            >
              <b className="block truncate font-firm">{item.summary.name}</b>
              <small className="block truncate text-sm text-ink2">{item.summary.state}</small>
            </Link>
          </li>
        ))}
      </ul>
      <div className="px-3 pt-2.5">
        <Link className={buttonClass("plain", "low")} to="/amplifiers/new">
          Add an amplifier
        </Link>
      </div>
    </nav>
  );
}
