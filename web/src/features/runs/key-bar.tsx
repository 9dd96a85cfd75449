import type { Schemas } from "@/api/client";

/** The keys of the bench, at its foot; undo says what it would take back. */
export function KeyBar({ undo }: { undo: Schemas["ActView"] | undefined }) {
  const keys: [string, string][] = [
    ["Enter", "log it"],
    ["R", "run again"],
    ["S", "set the rung"],
    ["O", "tone"],
    ["X", "something went wrong"],
    ["U", undo ? `take back: ${undo.says}` : "nothing to take back"],
  ];
  return (
    <div className="hidden min-h-11 flex-wrap items-center gap-x-5 gap-y-1 border-t border-line bg-sheet px-6 py-2 text-note text-ink2 sm:flex">
      {keys.map(([key, what]) => (
        <span key={key}>
          <kbd className="num mr-1 rounded border border-current px-1.5 text-fine leading-5 font-medium">{key}</kbd>
          {what}
        </span>
      ))}
    </div>
  );
}
