import { useState } from "react";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { useNotice } from "@/ui/notice";

/** Cautions, ticked one by one for this session: a tick shows at once, and goes again when it could not be kept. */
export function useTicks(sessionId: string, view: Schemas["LadderView"]) {
  const { tell } = useNotice();
  const [pressed, setPressed] = useState<Record<string, boolean>>({});
  const write = useWrite(
    (body: Schemas["Tick"]) => data(api.POST("/api/sessions/{id}/ticks", { params: { path: { id: sessionId } }, body })),
    [sessionId],
  );
  // All of a session that was made before they were ticked one by one.
  const allRead = view.cautions_read && !view.cautions.some((caution) => view.ticked.includes(caution.code));
  const isTicked = (code: string) => pressed[code] ?? (allRead || view.ticked.includes(code));
  const tick = (code: string, ticked: boolean) => {
    setPressed((known) => ({ ...known, [code]: ticked }));
    write.mutate(
      { code, ticked },
      {
        onError: (error) => {
          setPressed(({ [code]: _, ...others }) => others);
          tell({ says: error.message, look: "stop" });
        },
      },
    );
  };
  return { isTicked, tick, done: view.cautions.filter((caution) => isTicked(caution.code)).length };
}
