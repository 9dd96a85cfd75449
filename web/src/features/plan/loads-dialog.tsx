import { Link } from "react-router";
import { type Schemas, wordsOf } from "@/api/client";
import { queries } from "@/api/queries";
import { Button, buttonClass } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Builds } from "../benches/builds";

/** How a load can be made of this bench's resistors. */
export function LoadsDialog({
  sessionId,
  wiring,
  loadOhm,
  onChoose,
  onClose,
}: {
  sessionId: string;
  wiring: Schemas["Wiring"];
  loadOhm: number;
  onChoose: (build: Schemas["Build"]) => void;
  onClose: () => void;
}) {
  const asked = queries.useQuery(
    "post",
    "/api/sessions/{id}/loads",
    { params: { path: { id: sessionId } }, body: { wiring, load_ohm: loadOhm } },
    { retry: false },
  );
  return (
    <Dialog open onClose={onClose} title={`${String(loadOhm)}\u202fΩ of this bench’s resistors`} width="max-w-[820px]">
      {asked.isPending && <p className="text-ink2">Trying every way to join them…</p>}
      {asked.isError && (
        <div className="grid gap-3">
          <p role="alert">{wordsOf(asked.error)}</p>
          <div>
            <Link className={buttonClass()} to="/set-up/benches">
              To the benches
            </Link>
          </div>
        </div>
      )}
      {asked.data && <Builds answer={asked.data} onChoose={onChoose} />}
      <div className="mt-4 flex justify-end">
        <Button onClick={onClose}>Close</Button>
      </div>
    </Dialog>
  );
}
