import { queries } from "@/api/queries";
import { Button } from "@/ui/button";
import { Kbd } from "@/ui/kbd";
import { useKeys } from "@/ui/use-keys";
import { useClap } from "../record/use-clap";

/** When the cameras started: chapters and subtitles count from there. */
export function Camera({ sessionId }: { sessionId: string }) {
  const clap = useClap(sessionId);
  useKeys({ k: clap });
  const { data } = queries.useQuery("get", "/api/sessions/{id}/record", { params: { path: { id: sessionId } } });
  const claps = data?.record.claps ?? [];
  const clock = (at: string) => new Date(at).toLocaleTimeString("en-GB");
  return (
    <section aria-label="Camera" className="grid gap-1.5 border-t border-line pt-3 text-step">
      {claps.length === 0 ? (
        <p className="text-ink2">No clap: chapters start 5 s before the first run.</p>
      ) : (
        <ul className="text-ink2">
          {claps.map((clapped) => (
            <li key={clapped.at}>
              {clapped.clip ?? "Camera"} started at <span className="num">{clock(clapped.at)}</span>
            </li>
          ))}
        </ul>
      )}
      <Button size="low" className="justify-self-start" onClick={clap}>
        Camera starts now <Kbd>K</Kbd>
      </Button>
    </section>
  );
}
