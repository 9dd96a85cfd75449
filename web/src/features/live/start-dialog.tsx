import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";

/** Asks once before a run that can hurt; the safe answer has the focus. */
export function StartDialog({
  name,
  reasons,
  onClose,
  onStart,
}: {
  /** The run: wiring, load, mode. */
  name: string;
  reasons: string[];
  onClose: () => void;
  onStart: () => void;
}) {
  return (
    <Dialog open onClose={onClose} title={`Start ${name}?`} width="max-w-[560px]">
      <ul className="grid gap-1.5 border-l-[3px] border-stop pl-3">
        {reasons.map((reason) => (
          <li key={reason}>{reason}</li>
        ))}
      </ul>
      <div className="mt-4 flex justify-end gap-2">
        <Button autoFocus onClick={onClose}>
          Cancel
        </Button>
        <Button look="stop" onClick={onStart}>
          Start anyway
        </Button>
      </div>
    </Dialog>
  );
}
