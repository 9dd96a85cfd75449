import { useState } from "react";
import { Form } from "@/ui/form";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextField } from "@/ui/field";
import { problemsOf } from "@/ui/form-errors";
import { useNotice } from "@/ui/notice";

/** The line as it should have been, and why: the old one stays to be seen. */
export function CorrectDialog({ sessionId, run, onClose }: { sessionId: string; run: Schemas["RunBrief"]; onClose: () => void }) {
  const { tell } = useNotice();
  const [line, setLine] = useState(run.line);
  const [reason, setReason] = useState("");
  const [problems, setProblems] = useState<readonly { path: string; says: string }[]>([]);
  const correct = useWrite(
    (body: Schemas["Correction"]) =>
      data(api.POST("/api/sessions/{id}/runs/{run}/corrections", { params: { path: { id: sessionId, run: run.id } }, body })),
    [sessionId],
  );
  const error = (path: string) => problems.find((problem) => problem.path === path)?.says;
  return (
    <Dialog open onClose={onClose} title="Correct a line" width="max-w-[620px]">
      <Form
        className="grid gap-3"
        onSubmit={() => {
          correct.mutate(
            { line, reason },
            {
              onSuccess: () => {
                tell({ says: "Corrected. The old line stays in the history.", look: "plain", undo: true });
                onClose();
              },
              onError: (refusal) => setProblems(problemsOf(refusal, "line")),
            },
          );
        }}
      >
        <p className="text-ink2">
          Logged as <span className="num text-ink">{run.line}</span>
        </p>
        <TextField
          label="Corrected line"
          autoFocus
          className="num"
          value={line}
          error={error("line")}
          onChange={(event) => setLine(event.target.value)}
        />
        <TextField
          label="Why"
          hint="misread, wrong range, typing slip"
          value={reason}
          error={error("reason")}
          onChange={(event) => setReason(event.target.value)}
        />
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" look="main" disabled={correct.isPending || line === run.line}>
            Correct it
          </Button>
        </div>
      </Form>
    </Dialog>
  );
}
