import { Link, useRouteError } from "react-router";
import { Button, buttonClass } from "./button";

/** When a page breaks by a fault of ours: what happened, in our own words, with the places of the program still there. */
export function Broken() {
  const error = useRouteError();
  return (
    <main
      role="alert"
      className="m-6 grid max-w-[560px] content-start justify-items-start gap-3 rounded-lg border border-stop bg-sheet p-5"
    >
      <h1 className="wide text-2xl font-strong">This page broke.</h1>
      <p>This is Pukka’s fault, not yours. Everything logged is on the disk, and the typed line is kept.</p>
      <p className="num max-w-full text-note break-words text-ink2">{error instanceof Error ? error.message : String(error)}</p>
      <div className="flex flex-wrap gap-2">
        <Button look="main" onClick={() => location.reload()}>
          Reload
        </Button>
        <Link className={buttonClass()} to="/">
          Back to the shelf
        </Link>
      </div>
    </main>
  );
}

/** The same when what stands around every page broke: its places as plain links. */
export function BrokenFrame() {
  return (
    <div className="min-h-screen">
      <nav aria-label="Places" className="flex gap-4 bg-top px-5 py-3.5 text-top-ink">
        <b>Pukka</b>
        <a href="/">Shelf</a>
        <a href="/set-up">Set-up</a>
        <a href="/incidents">Incidents</a>
      </nav>
      <Broken />
    </div>
  );
}
