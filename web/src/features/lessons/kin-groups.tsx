import { Link } from "react-router";
import type { Schemas } from "@/api/client";
import { MOST } from "../compare/use-compare";
import { AmplifierLine } from "./amplifier-line";

/** The same under other names, and several specimens of one model. */
export function KinGroups({ groups }: { groups: readonly Schemas["Kin"][] }) {
  return (
    <section aria-label="Look-alikes and specimens" className="min-w-0">
      <h2 className="text-lg font-firm">Look-alikes and specimens</h2>
      {groups.length === 0 && (
        <p className="text-step text-ink2">
          None yet. Look-alikes are named on an amplifier&#8217;s record; specimens are entered as amplifiers of the same make and model.
        </p>
      )}
      <ul>
        {groups.map((group) => (
          <li key={group.members.map((member) => member.id).join(" ")} className="border-t border-line py-2">
            <div className="flex flex-wrap items-baseline gap-x-3">
              <b className="font-firm">{group.specimens ? "Specimens of one model" : "The same under other names"}</b>
              <Link
                className="ml-auto underline underline-offset-4"
                to={`/compare?ids=${group.members
                  .slice(0, MOST)
                  .map((member) => member.id)
                  .join(",")}`}
              >
                Side by side
              </Link>
            </div>
            <ul className="grid gap-0.5 pt-1">
              {group.members.map((member) => (
                <AmplifierLine key={member.id} id={member.id} name={member.name} says={[member.clean, member.overall_word]} />
              ))}
            </ul>
            {group.says != null && <p className="mt-1 rounded bg-hair px-2.5 py-1 text-step">{group.says}</p>}
          </li>
        ))}
      </ul>
    </section>
  );
}
