import { Undo2 } from "lucide-react";
import { Popover } from "radix-ui";
import type { Schemas } from "@/api/client";
import { buttonClass } from "./button";
import { Kbd } from "./kbd";

type Act = Schemas["ActView"];

/** What undo takes back next, and redo does again: the next one first, the others below in their order. */
export function UndoList({
  acts,
  open,
  setOpen,
  onUndo,
  onRedo,
}: {
  acts: Schemas["ActsView"] | undefined;
  open: boolean;
  setOpen: (open: boolean) => void;
  onUndo: (act: number) => void;
  onRedo: (act: number) => void;
}) {
  const next = acts?.undo[0];
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        aria-label={next ? `Undo: ${next.says}` : "Undo: nothing to take back"}
        className="rounded p-1 hover:text-white disabled:opacity-50"
      >
        <Undo2 size={16} aria-hidden />
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={8}
          collisionPadding={12}
          aria-label="What comes next"
          className="z-50 grid max-h-[70vh] w-[340px] max-w-[calc(100vw-24px)] gap-3 overflow-auto rounded-lg border border-edge bg-sheet p-4 text-base text-ink shadow-lg"
        >
          <Part
            title="Taken back next"
            keys="Ctrl Z"
            acts={acts?.undo ?? []}
            word="Take back"
            none="Nothing was done in this tab."
            onDo={onUndo}
          />
          {(acts?.redo.length ?? 0) > 0 && (
            <Part title="Done again next" keys="Ctrl Y" acts={acts?.redo ?? []} word="Do again" none="" onDo={onRedo} />
          )}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Part({
  title,
  keys,
  acts,
  word,
  none,
  onDo,
}: {
  title: string;
  keys: string;
  acts: Act[];
  word: string;
  none: string;
  onDo: (act: number) => void;
}) {
  return (
    <section>
      <h2 className="flex justify-between text-sm font-semibold text-ink2">
        {title} <Kbd>{keys}</Kbd>
      </h2>
      {acts.length === 0 && <p className="mt-1.5">{none}</p>}
      <ol className="mt-1.5 grid">
        {acts.map((act, i) => (
          <li key={act.act} className="flex items-center justify-between gap-3 border-t border-hair py-1.5 first:border-t-0">
            <span className={i === 0 ? "font-semibold" : "text-ink2"}>{act.says}</span>
            {i === 0 && (
              <button type="button" className={buttonClass("plain", "compact", "flex-none")} onClick={() => onDo(act.act)}>
                {word}
              </button>
            )}
          </li>
        ))}
      </ol>
    </section>
  );
}
