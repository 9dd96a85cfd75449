import { useId, useState } from "react";
import { Form } from "@/ui/form";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Photos } from "@/features/photos/photos";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { CONTROL } from "@/ui/field";
import { useNotice } from "@/ui/notice";

/** A short note on a run, typed or dictated to the keyboard, and its photos. The readings stay as they are. */
export function NoteDialog({
  amplifierId,
  sessionId,
  run,
  onClose,
}: {
  amplifierId: string;
  sessionId: string;
  run: Schemas["RunBrief"];
  onClose: () => void;
}) {
  const { tell } = useNotice();
  const id = useId();
  const [note, setNote] = useState(run.note ?? "");
  const [says, setSays] = useState<string | null>(null);
  const save = useWrite(
    (reason: string) =>
      data(
        api.POST("/api/sessions/{id}/runs/{run}/remarks", {
          params: { path: { id: sessionId, run: run.id } },
          body: { kind: "note", what: "", reason },
        }),
      ),
    [sessionId],
  );
  return (
    <Dialog open onClose={onClose} title={`Note on the run of ${run.total}`} width="max-w-[620px]">
      <Form
        className="grid gap-3"
        onSubmit={() => {
          // A line holds one line.
          save.mutate(note.replace(/\s+/g, " ").trim(), {
            onSuccess: () => {
              tell({ says: "Note saved.", look: "plain", undo: true });
              onClose();
            },
            onError: (error) => setSays(error.message),
          });
        }}
      >
        <label htmlFor={id} className="text-sm text-ink2">
          What happened, what it sounded or smelt like
        </label>
        <textarea
          id={id}
          rows={3}
          autoFocus
          className={CONTROL}
          value={note}
          maxLength={2000}
          onChange={(event) => setNote(event.target.value)}
        />
        {says && (
          <p role="alert" className="text-stop">
            {says}
          </p>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main" disabled={save.isPending || note.trim() === (run.note ?? "")}>
            Save the note
          </Button>
        </div>
      </Form>
      <div className="mt-4 border-t border-hair pt-3">
        <Photos amplifierId={amplifierId} runId={run.id} />
      </div>
    </Dialog>
  );
}
