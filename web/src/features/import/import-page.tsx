import { useRef, useState, type DragEvent } from "react";
import { Link, useNavigate } from "react-router";
import { api, data, Refusal, type Schemas } from "@/api/client";
import { useWrite } from "@/api/queries";
import { Button, buttonClass } from "@/ui/button";
import { useNotice } from "@/ui/notice";
import { Preview } from "./preview";
import { Progress } from "./progress";

type View = Schemas["ImportView"];

const asBytes = (file: File) => ({
  headers: { "Content-Type": "application/octet-stream" },
  body: file as never,
  bodySerializer: (body: unknown) => body as never,
});

/** Takes session files in: what one would do is shown before it is done. */
export function ImportPage() {
  const input = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const { tell } = useNotice();
  const [file, setFile] = useState<File | null>(null);
  const [view, setView] = useState<View | null>(null);
  const [skip, setSkip] = useState<number[]>([]);
  const [links, setLinks] = useState(false);
  const [refused, setRefused] = useState<string | null>(null);
  const [reading, setReading] = useState(false);
  const take = useWrite((from: File) =>
    data(api.POST("/api/imports", { params: { query: { skip: skip.join(","), links } }, ...asBytes(from) })),
  );
  const look = async (chosen: File | undefined, said: string | null = null) => {
    if (!chosen) return;
    setFile(chosen);
    setView(null);
    setRefused(said);
    setSkip([]);
    setLinks(false);
    setReading(true);
    try {
      setView(await data(api.POST("/api/imports/previews", asBytes(chosen))));
    } catch (error) {
      setRefused(error instanceof Refusal ? error.message : "The file could not be sent.");
    }
    setReading(false);
    if (input.current) input.current.value = "";
  };
  const wanted = view
    ? view.entries.filter((entry, i) => entry.what !== "refused" && entry.what !== "same" && !skip.includes(i)).length
    : 0;
  const brings = wanted > 0 || (view?.benches.some((line) => line.endsWith("is added")) ?? false) || links;
  const bring = () => {
    if (!file) return;
    take.mutate(file, {
      onSuccess: ({ entries, amplifier_id: only, stopped, left_out: leftOut }) => {
        if (stopped) {
          setRefused(stopped);
          void look(file, stopped);
          return;
        }
        const done = entries.filter((entry) => entry.what !== "same").length;
        if (leftOut.length > 0) {
          const says = `${done === 1 ? "One amplifier was" : `${String(done)} amplifiers were`} imported. Left out: ${leftOut.map((problem) => `${problem.path}: ${problem.says}`).join(" ")}`;
          tell({ says, look: "stop" });
          void navigate(only ? `/amplifiers/${only}/verdict` : "/");
          return;
        }
        tell({ says: done === 1 ? "One amplifier was imported." : `${String(done)} amplifiers were imported.`, look: "plain", undo: true });
        void navigate(only ? `/amplifiers/${only}/verdict` : "/");
      },
      onError: (error) => tell({ says: error.message, look: "stop" }),
    });
  };
  return (
    <main className="mx-auto w-full max-w-[980px] px-5 py-5">
      <h1 className="wide text-2xl font-strong">Import</h1>
      <Drop onFile={(dropped) => void look(dropped)}>
        <p>
          <b>Drop a session file here</b>, or a zip of a whole shelf. Nothing is done before you have seen what it would do.
        </p>
        <Button look={view ? "plain" : "main"} onClick={() => input.current?.click()}>
          Choose a file
        </Button>
        <input
          ref={input}
          type="file"
          aria-label="File to import"
          accept=".json,.zip,application/json,application/zip"
          className="sr-only"
          tabIndex={-1}
          onChange={(event) => void look(event.target.files?.[0])}
        />
      </Drop>
      <div className="mt-3 text-ink2">
        <p role="status">{reading && `Reading ${file?.name ?? "the file"}…`}</p>
        {take.isPending && <Progress />}
      </div>
      {refused !== null && (
        <div role="alert" className="mt-2 rounded-md bg-stop-wash px-3 py-2">
          {view === null && <b className="mr-2">{file?.name} was not read.</b>}
          {refused}
        </div>
      )}
      {view && (
        <>
          <div className="mt-4 flex flex-wrap items-center gap-2">
            <Button look="main" disabled={!brings || take.isPending} onClick={bring}>
              {!brings ? "Nothing to import" : wanted <= 1 ? "Import" : `Import ${String(wanted)}`}
            </Button>
            <Link className={buttonClass("quiet")} to="/">
              Cancel
            </Link>
            <p className="ml-auto text-step text-ink2">{counted(view)}</p>
          </div>
          <Preview view={view} skip={skip} onSkip={setSkip} links={links} onLinks={setLinks} />
        </>
      )}
    </main>
  );
}

/** "12 new, one changed": of a long file the end is far down. */
function counted(view: View) {
  const of = (what: Schemas["What"]) => view.entries.filter((entry) => entry.what === what).length;
  const parts: [number, string][] = [
    [of("added"), "new"],
    [of("changed"), "changed"],
    [of("same"), "already here"],
    [of("refused"), "refused"],
  ];
  return parts
    .filter(([n]) => n > 0)
    .map(([n, word]) => `${String(n)} ${word}`)
    .join(", ");
}

function Drop({ onFile, children }: { onFile: (file: File | undefined) => void; children: React.ReactNode }) {
  const [over, setOver] = useState(false);
  const on = (event: DragEvent, now: boolean) => {
    event.preventDefault();
    setOver(now);
  };
  return (
    <div
      className={`mt-4 grid justify-items-start gap-3 rounded-lg border border-dashed p-6 ${over ? "border-copper bg-copper-wash" : "border-edge"}`}
      onDragOver={(event) => on(event, true)}
      onDragLeave={(event) => on(event, false)}
      onDrop={(event) => {
        on(event, false);
        onFile(event.dataTransfer.files[0]);
      }}
    >
      {children}
    </div>
  );
}
