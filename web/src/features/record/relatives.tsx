import { Link } from "react-router";
import { queries } from "@/api/queries";

/** Relatives that stand on this shelf, by their names or as they were linked. */
export function Relatives({ names }: { names: readonly string[] }) {
  const kept = [...new Set(names.map((name) => name.trim()).filter(Boolean))];
  if (kept.length === 0) return null;
  return (
    <ul aria-label="On this shelf" className="flex flex-wrap gap-x-4 gap-y-1">
      {kept.map((name) => (
        <Relative key={name} name={name} />
      ))}
    </ul>
  );
}

function Relative({ name }: { name: string }) {
  const { data } = queries.useQuery("get", "/api/amplifiers", { params: { query: { find: name.slice(0, 200), limit: 20 } } });
  const found = data?.amplifiers.find((one) => one.summary.name.toLowerCase() === name.toLowerCase());
  if (!found) return null;
  return (
    <li>
      <Link className="underline underline-offset-4" to={`/amplifiers/${found.id}/verdict`}>
        {found.summary.name}
      </Link>
      <span className="text-step text-ink2">, on this shelf: {found.summary.state}</span>
    </li>
  );
}
