import { Flag } from "@/ui/flag";
import type { AmplifierInHand } from "../amplifier-layout";
import { PROVENANCES } from "./amplifier-words";
import { SenseFlags } from "./sense-flags";

/** What follows from the claims before a watt is measured, and what is owed to an audience. */
export function Implications({ inHand }: { inHand: AmplifierInHand }) {
  const { amplifier, sense, claims } = inHand;
  const regulation = amplifier.supply_type === "unknown";
  const disclosed = amplifier.provenance === "bought";
  if (sense.view.found.length === 0 && !regulation && disclosed) return null;
  return (
    <section className="mt-6">
      <h3 className="text-note font-firm text-ink2">{claims.length > 0 ? "What they imply" : "Before the first claim"}</h3>
      <div className="mt-2 grid content-start gap-2 xl:grid-cols-2">
        <SenseFlags found={sense.view.found} />
        {regulation && (
          <Flag look="doubt" title="Regulated or unregulated?">
            Until that is known, a run away from the claim’s voltage can leave a claim undecided.
          </Flag>
        )}
        {!disclosed && (
          <Flag look="doubt" title="Disclose.">
            {PROVENANCES[amplifier.provenance]}: the sheet says so.
          </Flag>
        )}
      </div>
    </section>
  );
}
