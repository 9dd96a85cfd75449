import { createContext, useCallback, useContext, useEffect, useMemo, useState, type ReactNode } from "react";
import { X } from "lucide-react";

interface Notice {
  says: string;
  look: "plain" | "stop";
  /** Offers to take back what was just done. */
  undo?: boolean;
}

interface Notices {
  notice: Notice | null;
  tell: (notice: Notice | null) => void;
}

const Context = createContext<Notices>({ notice: null, tell: () => undefined });

// Long enough to read and reach for Undo; a refusal stays until it is closed.
const SHOWN_MS = 9_000;

/** Says at the foot of the page what was just done, with its undo. */
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

export function NoticeBar({ onUndo }: { onUndo: () => void }) {
  const { notice, tell } = useNotice();
  return (
    <div aria-live="polite" className="no-print pointer-events-none fixed inset-x-0 bottom-14 z-30 flex justify-center px-3">
      {notice && (
        <div
          className={`pointer-events-auto flex items-center gap-3 rounded-md px-3.5 py-2 shadow-lg ${notice.look === "stop" ? "bg-stop text-paper" : "bg-top text-top-ink"}`}
        >
          <span>{notice.says}</span>
          {notice.undo && (
            <button type="button" className="font-semibold underline underline-offset-3" onClick={onUndo}>
              Undo
            </button>
          )}
          <button type="button" aria-label="Close this notice" onClick={() => tell(null)}>
            <X size={16} aria-hidden />
          </button>
        </div>
      )}
    </div>
  );
}
