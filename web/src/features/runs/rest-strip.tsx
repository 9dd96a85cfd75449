import { useEffect, useRef, useState } from "react";
import { useRest } from "@/api/queries";
import { Check } from "@/ui/check";
import { chime } from "./tone-audio";

const SOUND = "pukka-rest-sound";

/** Whether the next run may start: rested, steady, cool. A quiet sound says so, if it is wanted. */
export function RestStrip({ sessionId }: { sessionId: string }) {
  const [sound, setSound] = useState(localStorage.getItem(SOUND) === "on");
  const was = useRef(true);
  const { data: rest } = useRest(sessionId);
  const ready = rest?.ready ?? true;
  useEffect(() => {
    if (ready && !was.current && sound) chime();
    was.current = ready;
  }, [ready, sound]);
  if (!rest) return null;
  return (
    <section
      aria-label="Rest"
      className={`mt-2 flex flex-wrap items-center gap-x-4 gap-y-1 border-l-[3px] pl-3 text-step ${ready ? "border-verdigris" : "border-ochre"}`}
    >
      <b className="font-bold">{ready ? "Ready." : "Rest."}</b>
      <span className="min-w-0 flex-1">{rest.says.join(" ")}</span>
      <Check
        label="sound"
        checked={sound}
        onChange={(on) => {
          setSound(on);
          localStorage.setItem(SOUND, on ? "on" : "off");
        }}
      />
    </section>
  );
}
