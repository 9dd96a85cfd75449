import { api, atRevision, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { useNotice } from "@/ui/notice";

type Settings = Schemas["SessionSettings"];

/** Changes some of what is set for the session, and keeps the rest as it is. */
export function useSettings(sessionId: string, view: Schemas["LadderView"]) {
  const { tell } = useNotice();
  const write = useWrite(
    (body: Partial<Settings>) =>
      data(api.PATCH("/api/sessions/{id}", { params: { path: { id: sessionId }, header: atRevision(view.revision) }, body })),
    [sessionId],
  );
  const change = (part: Partial<Settings>, done?: { onDone?: () => void; onError?: (error: Error) => void }) =>
    write.mutate(part, {
      onSuccess: () => {
        tell({ says: "Plan changed.", look: "plain", undo: true });
        done?.onDone?.();
      },
      onError: (error) => (done?.onError ? done.onError(error) : tell({ says: error.message, look: "stop" })),
    });
  return { change, pending: write.isPending };
}
