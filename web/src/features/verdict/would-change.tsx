import { Link } from "react-router";
import type { Schemas } from "@/api/client";

/** What would change the verdict, each with the way to do it. */
export function WouldChange({ items }: { items: Schemas["WouldChange"][] }) {
  if (items.length === 0) return null;
  return (
    <section className="mt-6" aria-label="What would change this verdict">
      <h3 className="text-note font-firm text-ink2">What would change this verdict</h3>
      <ul className="mt-1.5 grid gap-1.5">
        {items.map((item) => (
          <li key={item.says} className="flex flex-wrap items-baseline justify-between gap-x-4 border-t border-hair pt-1.5">
            <span className="min-w-0 flex-1">{item.says}</span>
            {item.rung && (
              <Link
                className="font-semibold whitespace-nowrap underline underline-offset-3"
                to={`../runs?${new URLSearchParams({ rung: item.rung, ...(item.mode && { mode: item.mode }) }).toString()}`}
                relative="path"
              >
                Go to that run
              </Link>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
