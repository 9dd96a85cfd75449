import { Link } from "react-router";

/** An amplifier of the shelf by its name, with what there is to say of it. */
export function AmplifierLine({ id, name, says }: { id: string; name: string; says: readonly (string | null | undefined)[] }) {
  return (
    <li className="flex flex-wrap items-baseline gap-x-3">
      <Link className="underline underline-offset-4" to={`/amplifiers/${id}/verdict`}>
        {name}
      </Link>
      <span className="text-note text-ink2">{says.filter(Boolean).join(", ")}</span>
    </li>
  );
}
