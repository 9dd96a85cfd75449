import { useEffect, useRef, useState } from "react";
import { useRest } from "@/api/queries";
import { speak } from "@/ui/speech";
import { BeforeRow } from "./before-row";
import { minutes } from "./minutes";
import { isChimeOn } from "./sound";
import { chime } from "./tone-audio";

/** Seconds of rest that are left, counted down between two answers of the program. */
export function useRestTimer(sessionId: string) {
  const { data: rest, dataUpdatedAt } = useRest(sessionId);
  const [now, setNow] = useState(dataUpdatedAt);
  const wait = rest?.wait_s ?? 0;
  useEffect(() => {
    if (wait <= 0) return;
    const timer = setInterval(() => setNow(Date.now()), 250);
    return () => clearInterval(timer);
  }, [wait]);
  return { rest, left: Math.max(0, wait - Math.max(0, now - dataUpdatedAt) / 1_000) };
}

/** Whether the next run may start: rested, steady, cool. A quiet sound or a word says so, if it is wanted. */
export function RestRow({ sessionId, logged }: { sessionId: string; logged: number }) {
  const { rest, left } = useRestTimer(sessionId);
  const was = useRef(true);
  const ready = rest?.ready ?? true;
  useEffect(() => {
    if (ready && !was.current) {
      if (isChimeOn()) chime();
      speak("Rested.");
    }
    was.current = ready;
  }, [ready]);
  const words = rest?.says.filter((says) => !says.includes("s of rest left")) ?? [];
  return (
    <BeforeRow name="Rest">
      {logged === 0 ? (
        "Nothing run yet: no rest needed."
      ) : (
        <>
          {left > 0 && <b className="num mr-1.5 text-figure leading-none font-semibold">{minutes(left)}</b>}
          {ready ? (
            <b className="font-semibold text-verdigris">Rested, steady and cool.</b>
          ) : (
            <span className="text-ink2">{words.join(" ")}</span>
          )}
        </>
      )}
    </BeforeRow>
  );
}
