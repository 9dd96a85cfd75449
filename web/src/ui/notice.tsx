import { createContext, useCallback, useContext, useEffect, useMemo, useState, type ReactNode } from "react";
import { X } from "lucide-react";

interface Notice {
  says: string;
  look: "plain" | "stop";
  /** Offers to take back what was just done. */
  undo?: boolean;
  /** Offers to do again what was just taken back. */
  redo?: boolean;
}

interface Notices {
  notice: Notice | null;
  tell: (notice: Notice | null) => void;
}

const Context = createContext<Notices>({ notice: null, tell: () => undefined });

// Long enough to read and reach for Undo; a refusal stays until it is closed.
const SHOWN_MS = 9_000;

/** Says at the top of the page what was just done, with its undo: there it covers nothing that was read or doubted. */
export function NoticeProvider({ children }: { children: ReactNode }) {
  const [notice, setNotice] = useState<Notice | null>(null);
  useEffect(() => {
    if (notice?.look !== "plain") return;
    const timer = setTimeout(() => setNotice(null), SHOWN_MS);
    return () => clearTimeout(timer);
  }, [notice]);
  const tell = useCallback((next: Notice | null) => setNotice(next), []);
  const value = useMemo(() => ({ notice, tell }), [notice, tell]);
  return <Context.Provider value={value}>{children}</Context.Provider>;
}

export const useNotice = () => useContext(Context);

export function NoticeBar({ onUndo, onRedo }: { onUndo: () => void; onRedo: () => void }) {
  const { notice, tell } = useNotice();
  const act = (words: string, onClick: () => void) => (
    <button type="button" className="font-semibold underline underline-offset-3" onClick={onClick}>
      {words}
    </button>
  );
  return (
    <div aria-live="polite" className="flex min-w-0 flex-1 justify-center max-md:absolute max-md:inset-x-0 max-md:bottom-0 max-md:z-10">
      {notice && (
        <div
          className={`flex min-w-0 items-center gap-3 rounded-md px-3 py-1.5 text-note leading-snug max-md:min-h-11 max-md:w-full max-md:rounded-none ${notice.look === "stop" ? "bg-stop text-paper" : "bg-top-on text-top-ink"}`}
        >
          <span className="min-w-0">{notice.says}</span>
          {notice.undo && act("Undo", onUndo)}
          {notice.redo && act("Do again", onRedo)}
          <button type="button" aria-label="Close this notice" className="ml-auto" onClick={() => tell(null)}>
            <X size={16} aria-hidden />
          </button>
        </div>
      )}
    </div>
  );
}
