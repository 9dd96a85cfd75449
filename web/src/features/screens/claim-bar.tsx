/** The mark of the claim stands at four fifths of the bar, so that what goes past it is seen. */
const CLAIM_AT = 0.8;

/** How far the output is on its way to the claim. */
export function ClaimBar({ share, claim, className = "" }: { share: number; claim: string; className?: string }) {
  const wide = Math.min(1, share * CLAIM_AT);
  return (
    <div className={`relative ${className}`}>
      <div className="h-full overflow-hidden bg-hair">
        <div className="h-full bg-verdigris" style={{ width: `${String(100 * wide)}%` }} />
      </div>
      <i className="absolute -inset-y-1 w-1 bg-ink" style={{ left: `${String(100 * CLAIM_AT)}%` }} aria-hidden />
      <span className="sr-only">
        {String(Math.round(100 * share))} % of {claim} claimed
      </span>
    </div>
  );
}
