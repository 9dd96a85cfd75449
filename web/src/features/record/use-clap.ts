import { api, data } from "@/api/client";
import { useWrite } from "@/api/queries";
import { useNotice } from "@/ui/notice";

/** Notes that a camera starts now: chapters and subtitles count from here. */
export function useClap(sessionId: string) {
  const { tell } = useNotice();
  const write = useWrite(() => data(api.POST("/api/sessions/{id}/claps", { params: { path: { id: sessionId } }, body: {} })), [sessionId]);
  return () =>
    write.mutate(undefined, {
      onSuccess: () => tell({ says: "Camera starts: chapters count from here.", look: "plain", undo: true }),
      onError: (error) => tell({ says: error.message, look: "stop" }),
    });
}
