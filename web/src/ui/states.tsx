import { wordsOf } from "@/api/client";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { buttonClass } from "./button";

/** While something is on its way. */
export function Loading() {
  return (
    <p role="status" className="p-6 text-ink2">
      Reading the records…
    </p>
  );
}

/** When something could not be had: what, and what to do. */
export function Failed({ error, retry }: { error: unknown; retry?: () => void }) {
  return (
    <div role="alert" className="m-6 grid max-w-[560px] justify-items-start gap-3 rounded-lg border border-stop bg-sheet p-4">
      <b>This could not be shown.</b>
      <p>{wordsOf(error)}</p>
      {retry && (
        <button type="button" className={buttonClass()} onClick={retry}>
          Try again
        </button>
      )}
    </div>
  );
}

/** An empty place that says what to do first. */
export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className="grid max-w-[560px] justify-items-start gap-3 rounded-lg border border-dashed border-edge p-6">
      <b className="wide text-lg">{title}</b>
      {children}
    </div>
  );
}

export function Nowhere() {
  return (
    <main className="grid max-w-[560px] justify-items-start gap-3 p-6">
      <h1 className="wide text-2xl font-strong">There is nothing at this address.</h1>
      <p>It may have been deleted, or the address may be mistyped.</p>
      <Link className={buttonClass()} to="/">
        Back to the shelf
      </Link>
    </main>
  );
}
