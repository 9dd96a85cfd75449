import { Undo2 } from "lucide-react";
import type { Schemas } from "@/api/client";
import { buttonClass } from "./button";
import { Kbd } from "./kbd";
import { Opens } from "./opens";

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
    <Opens
      label="Undo and redo"
      name={next ? `Undo: ${next.says}` : "Undo: nothing to undo"}
      className="rounded p-1 hover:text-white"
      popupClass="grid w-[340px] gap-3"
      held={[open, setOpen]}
      shows={() => (
        <>
          <Part title="Undo next" keys="Ctrl Z" acts={acts?.undo ?? []} word="Undo" none="Nothing done in this tab yet." onDo={onUndo} />
          {(acts?.redo.length ?? 0) > 0 && (
            <Part title="Redo next" keys="Ctrl Y" acts={acts?.redo ?? []} word="Redo" none="" onDo={onRedo} />
          )}
        </>
      )}
    >
      <Undo2 size={16} aria-hidden />
    </Opens>
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
