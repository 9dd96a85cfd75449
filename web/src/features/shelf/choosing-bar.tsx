import { useState } from "react";
import { Form } from "@/ui/form";
import { api, data, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button, buttonClass } from "@/ui/button";
import { TextField } from "@/ui/field";
import { problemsOf } from "@/ui/form-errors";
import { useNotice } from "@/ui/notice";
import { Opens } from "@/ui/opens";
import type { Choosing } from "./use-choosing";

/** Most amplifiers that one link can name. */
const MOST_EXPORTED = 200;

/** What can be done to the chosen amplifiers, all at once. */
export function ChoosingBar({ choosing, away, found }: { choosing: Choosing; away: boolean; found: number }) {
  const { tell } = useNotice();
  const ids = [...(choosing.chosen ?? [])];
  const mark = useWrite((body: Schemas["Marking"]) => data(api.POST("/api/markings", { body })));
  const none = ids.length === 0;
  const done =
    (words: string) =>
    ({ changed }: Schemas["Marked"]) => {
      tell({ says: `${words}: ${changed === 1 ? "1 amplifier" : `${String(changed)} amplifiers`}.`, look: "plain", undo: changed > 0 });
      choosing.end();
    };
  const refused = (why: Error) =>
    tell({
      says: problemsOf(why, "")
        .map((problem) => problem.says)
        .join(" "),
      look: "stop",
    });
  const putAway = () => mark.mutate({ ids, archived: !away }, { onSuccess: done(away ? "Taken out" : "Put away"), onError: refused });
  return (
    <div
      role="group"
      aria-label="The chosen amplifiers"
      className="mt-3 flex flex-wrap items-center gap-2 rounded-lg bg-verdigris-wash px-3 py-2"
    >
      <span role="status" className="mr-1 font-semibold">
        {none ? "Press the amplifiers that are meant" : `${String(ids.length)} chosen`}
      </span>
      <Button size="low" onClick={() => void choosing.all().catch((why: unknown) => refused(why as Error))}>
        All {String(found)}
      </Button>
      <Button size="low" disabled={none || mark.isPending} onClick={putAway}>
        {away ? "Take out again" : "Put away"}
      </Button>
      <TagAll
        disabled={none || mark.isPending}
        onTag={(body) => mark.mutate({ ids, ...body }, { onSuccess: done("tag" in body ? "Tagged" : "Tag taken off"), onError: refused })}
      />
      {!none && ids.length <= MOST_EXPORTED ? (
        <a className={buttonClass("plain", "low")} href={`/api/shelf.zip?ids=${ids.join(",")}`} download>
          Export these
        </a>
      ) : (
        <Button size="low" disabled title={none ? undefined : `${String(MOST_EXPORTED)} at the most: “Export all” takes the whole shelf`}>
          Export these
        </Button>
      )}
      <Button size="low" look="quiet" className="ml-auto" onClick={choosing.end}>
        Done
      </Button>
    </div>
  );
}

function TagAll({ disabled, onTag }: { disabled: boolean; onTag: (body: { tag: string } | { untag: string }) => void }) {
  const [tag, setTag] = useState("");
  const [open, setOpen] = useState(false);
  const give = (body: { tag: string } | { untag: string }) => {
    setOpen(false);
    onTag(body);
  };
  if (disabled) {
    return (
      <Button size="low" disabled>
        Tag
      </Button>
    );
  }
  return (
    <Opens
      label="Tag the chosen amplifiers"
      className={buttonClass("plain", "low")}
      held={[open, setOpen]}
      shows={() => (
        <Form
          className="grid gap-3"
          onSubmit={() => {
            give({ tag });
          }}
        >
          <TextField autoFocus label="Tag" maxLength={40} value={tag} onChange={(event) => setTag(event.target.value)} />
          <span className="flex gap-2">
            <Button type="submit" look="main" size="low" disabled={tag.trim() === ""}>
              Give it
            </Button>
            <Button size="low" disabled={tag.trim() === ""} onClick={() => give({ untag: tag })}>
              Take it off
            </Button>
          </span>
        </Form>
      )}
    >
      Tag
    </Opens>
  );
}
