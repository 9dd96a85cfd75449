import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState } from "react";
import { tabId, type Schemas } from "@/api/client";
import { refresh } from "@/api/queries";
import { newId } from "@/ui/ids";

/** A recording on its way to the program. */
export interface Adding {
  name: string;
  /** 0 to 1; nothing while the program reads what it got. */
  part: number | null;
}

/**
 * Sends recordings to a session, one after the other, says how far each is, and can be stopped: what was stopped or refused is not
 * kept, not even a part of it.
 */
export function useAdding(sessionId: string, onAdded: (trace: Schemas["TraceLine"]) => void) {
  const client = useQueryClient();
  const [adding, setAdding] = useState<Adding | null>(null);
  const [refused, setRefused] = useState<readonly string[]>([]);
  const under = useRef<XMLHttpRequest | null>(null);
  const add = useCallback(
    async (files: readonly File[]) => {
      setRefused([]);
      for (const file of files) {
        setAdding({ name: file.name, part: 0 });
        const answer = await send(sessionId, file, under, (part) => setAdding({ name: file.name, part }));
        if (typeof answer === "string") setRefused((all) => [...all, `${file.name}: ${answer}`]);
        else if (answer) {
          await refresh(client, [sessionId]);
          onAdded(answer);
        } else break;
      }
      setAdding(null);
    },
    [sessionId, client, onAdded],
  );
  return { adding, refused, add, forget: () => setRefused([]), stop: () => under.current?.abort() };
}

/** By the older way to send: the newer one does not say how far it is. Nothing when it was stopped; a sentence when it was refused. */
function send(sessionId: string, file: File, under: { current: XMLHttpRequest | null }, say: (part: number | null) => void) {
  return new Promise<Schemas["TraceLine"] | string | null>((done) => {
    const request = new XMLHttpRequest();
    under.current = request;
    request.open("POST", `/api/sessions/${encodeURIComponent(sessionId)}/traces?name=${encodeURIComponent(file.name)}`);
    request.setRequestHeader("Content-Type", "application/octet-stream");
    request.setRequestHeader("X-Pukka-Tab", tabId());
    request.setRequestHeader("Idempotency-Key", newId());
    request.upload.onprogress = ({ loaded, total }) => say(loaded < total ? loaded / total : null);
    request.onabort = () => done(null);
    request.onerror = () => done("The connection broke. Nothing of it was kept: try it again.");
    request.onload = () => {
      try {
        const answer = JSON.parse(request.responseText) as Schemas["TraceLine"] & Schemas["ProblemBody"];
        done(request.status === 201 ? answer : (answer.problems?.[0]?.says ?? answer.detail));
      } catch {
        done(`The program answered ${String(request.status)}.`);
      }
    };
    request.send(file);
  });
}
