import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button, buttonClass } from "@/ui/button";
import { useNotice } from "@/ui/notice";

/** What else can be done with a recording: its picture saved, itself removed. */
export function TraceFoot({
  sessionId,
  line,
  cut,
  load,
}: {
  sessionId: string;
  line: Schemas["TraceLine"];
  cut: Schemas["CutView"] | null;
  load: number | undefined;
}) {
  const { tell } = useNotice();
  const path = { id: sessionId, sha256: line.sha256 };
  const remove = useWrite(() => data(api.DELETE("/api/sessions/{id}/traces/{sha256}", { params: { path } })), [sessionId]);
  const drop = () =>
    remove.mutate(undefined, {
      onSuccess: () => tell({ says: `Removed ${line.name}.`, look: "plain", undo: true }),
      onError: (why) => tell({ says: why.message, look: "stop" }),
    });
  const picture = (ending: "png" | "svg") => {
    const query = new URLSearchParams(
      Object.entries({ ...cut, ...(load === undefined ? {} : { load_ohm: load }) }).map(([k, v]) => [k, String(v)]),
    );
    return `/api/sessions/${sessionId}/traces/${line.sha256}/pictures/trace.${ending}?${query.toString()}`;
  };
  return (
    <div className="grid gap-3">
      <div className="flex flex-wrap gap-2">
        {cut && (
          <>
            <a className={buttonClass("plain", "low")} href={picture("png")} download={`${line.name}.png`}>
              Picture, PNG
            </a>
            <a className={buttonClass("plain", "low")} href={picture("svg")} download={`${line.name}.svg`}>
              SVG
            </a>
          </>
        )}
        <Button size="low" look="quiet" className="ml-auto" onClick={drop}>
          Remove
        </Button>
      </div>
      <p className="text-sm text-ink2">
        The recording is kept with the run, as evidence: whoever has the session with its zip can read it again. What its recorder wrote
        beside the samples never goes out with a shared one.
      </p>
    </div>
  );
}
