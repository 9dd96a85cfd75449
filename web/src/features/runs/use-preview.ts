import { useEffect, useRef, useState } from "react";
import { api, data, type Schemas } from "@/api/client";
import type { Mode } from "../ladder/place";

type Preview = Schemas["Preview"];

const AGAIN_MS = 1_000;

/** What the line comes to as it is typed; an answer to an older keystroke is dropped. */
export function usePreview(sessionId: string, rung: string, mode: Mode, line: string) {
  const seq = useRef(0);
  const [preview, setPreview] = useState<Preview | null>(null);
  const [error, setError] = useState<string | null>(null);
  const [tries, setTries] = useState(0);
  useEffect(() => {
    const mine = ++seq.current;
    if (line.trim() === "") return;
    const abort = new AbortController();
    let again: ReturnType<typeof setTimeout> | undefined;
    data(
      api.POST("/api/sessions/{id}/preview", {
        params: { path: { id: sessionId } },
        body: { rung, mode, line, seq: mine },
        signal: abort.signal,
      }),
    )
      .then((answer) => {
        if (answer.seq !== seq.current) return;
        setPreview(answer);
        setError(null);
      })
      .catch((reason: unknown) => {
        if (abort.signal.aborted || mine !== seq.current) return;
        setError((reason as Error).message);
        // The program may only be away for a while.
        again = setTimeout(() => setTries((known) => known + 1), AGAIN_MS);
      });
    return () => {
      clearTimeout(again);
      abort.abort();
    };
  }, [sessionId, rung, mode, line, tries]);
  const empty = line.trim() === "";
  return { preview: empty ? null : preview, error: empty ? null : error };
}
