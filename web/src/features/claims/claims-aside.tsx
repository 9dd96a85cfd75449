import { Link } from "react-router";
import { buttonClass } from "@/ui/button";
import { Flag } from "@/ui/flag";
import type { AmplifierInHand } from "../amplifier-layout";
import { PROVENANCES } from "./amplifier-words";
import { FusePicture, SenseFlags } from "./sense-flags";

/** What to doubt about the claims, what is owed to an audience, and on to the bench. */
export function ClaimsAside({ inHand }: { inHand: AmplifierInHand }) {
  const { amplifier, summary, sense } = inHand;
  return (
    <aside className="grid content-start gap-2.5 px-[22px] py-[18px] lg:pl-0">
      <FusePicture sense={sense} />
      <SenseFlags found={sense.view.found} />
      {amplifier.supply_type === "unknown" && (
        <Flag look="doubt" title="Regulated or not?">
          While that is not known, a run away from the claim’s voltage can leave a claim undecided.
        </Flag>
      )}
      {amplifier.provenance !== "bought" && (
        <Flag look="doubt" title="Disclose.">
          {PROVENANCES[amplifier.provenance]}: the sheet says so.
        </Flag>
      )}
      {inHand.claims.length > 0 && summary.logged < summary.planned && (
        <Link className={buttonClass("main", "usual", "mt-1 justify-self-start")} to="../plan" relative="path">
          Plan the runs
        </Link>
      )}
    </aside>
  );
}
