import { queries } from "@/api/queries";
import { Button } from "@/ui/button";
import { Figure } from "@/ui/figure";
import { readNumber } from "@/ui/numbers";

const tryNumber = (text: string): number | null => {
  try {
    return readNumber(text);
  } catch {
    return null;
  }
};

/** Extra drive from two voltages, and the voltage for an extra drive. */
export function DriveHelp({
  onset,
  raised,
  drive,
  onTake,
}: {
  onset: string;
  raised: string;
  drive: string;
  onTake: (db: string) => void;
}) {
  const from = tryNumber(onset);
  const to = tryNumber(raised);
  const db = tryNumber(drive);
  const query = from === null ? null : to !== null ? { from_v: from, to_v: to } : db !== null ? { from_v: from, db } : null;
  const asked = queries.useQuery(
    "get",
    "/api/arithmetic/drive",
    { params: { query: query ?? { from_v: 1 } } },
    { enabled: query !== null, retry: false },
  );
  const found = query && asked.data;
  return (
    <p className="min-h-8 self-center text-step text-ink2 sm:col-span-2" aria-live="polite">
      {!found ? (
        "The two voltages give the decibels, and the decibels give the voltage."
      ) : to !== null ? (
        <>
          That is <Figure figure={found} /> of extra drive.{" "}
          <Button size="compact" onClick={() => onTake(String(Math.round(found.value * 100) / 100))}>
            Take it
          </Button>
        </>
      ) : (
        <>
          Raise it to <Figure figure={found} />.
        </>
      )}
    </p>
  );
}
