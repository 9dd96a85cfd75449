import { useState } from "react";
import type { Schemas } from "@/api/client";
import { Button } from "@/ui/button";
import { useNotice } from "@/ui/notice";
import { Camera } from "./camera";

type Publication = Schemas["Publication"];
type Kind = "description" | "markdown" | "chapters" | "pinned" | "titles";

const KINDS: readonly [Kind, string][] = [
  ["description", "Description"],
  ["markdown", "Markdown"],
  ["chapters", "Chapters"],
  ["titles", "Titles"],
  ["pinned", "Pinned comment"],
];

const textOf = (publication: Publication, kind: Kind) => (kind === "titles" ? publication.titles.join("\n") : publication[kind]);

/** Words that go with a video or a page, to be copied. */
export function Words({ publication, sessionId }: { publication: Publication; sessionId: string }) {
  const [kind, setKind] = useState<Kind>("description");
  const { tell } = useNotice();
  const text = textOf(publication, kind);
  const copy = () => {
    navigator.clipboard
      .writeText(text)
      .then(() => tell({ says: "Copied.", look: "plain" }))
      .catch(() => tell({ says: "This browser does not let text be copied here: mark it and copy it.", look: "stop" }));
  };
  return (
    <section aria-label="Words" className="grid min-w-0 gap-3 lg:sticky lg:top-4">
      {publication.standing && (
        <p className="rounded-md bg-ochre-wash px-3 py-2">
          <b>{publication.standing}</b> Every card and text says so.
        </p>
      )}
      <div className="flex flex-wrap gap-x-3.5 gap-y-1">
        {KINDS.map(([one, words]) => (
          <button
            key={one}
            type="button"
            aria-pressed={one === kind}
            className="border-b-2 border-transparent py-1 text-ink2 hover:text-ink aria-pressed:border-copper aria-pressed:font-semibold aria-pressed:text-ink"
            onClick={() => setKind(one)}
          >
            {words}
          </button>
        ))}
      </div>
      <pre
        tabIndex={0}
        aria-label="Text to copy"
        className="max-h-[52vh] overflow-auto rounded-lg border border-line bg-sheet p-3 font-sans text-step whitespace-pre-wrap"
      >
        {text}
      </pre>
      <Button className="justify-self-start" onClick={copy}>
        Copy the text
      </Button>
      <Camera sessionId={sessionId} />
    </section>
  );
}
