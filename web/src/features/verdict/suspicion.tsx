import { useSuspicion } from "@/api/queries";
import { Flag } from "@/ui/flag";

/** Which reading is wrong: asked where checks stand open. */
export function Suspicion({ sessionId, asked }: { sessionId: string; asked: boolean }) {
  const found = useSuspicion(sessionId, asked);
  if (!asked) return null;
  if (found.isPending) {
    return (
      <p role="status" className="text-sm text-ink2">
        Leaving out one reading at a time…
      </p>
    );
  }
  const suspicion = found.data?.suspicion;
  if (!suspicion) return null;
  return (
    <Flag look={suspicion.readings.length === 1 ? "doubt" : "note"} title="Which reading is wrong?">
      {suspicion.says}{" "}
      <span className="text-ink2">
        {suspicion.tried} {suspicion.tried === 1 ? "reading was" : "readings were"} left out in turn.
      </span>
    </Flag>
  );
}
