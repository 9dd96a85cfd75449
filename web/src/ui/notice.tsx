import { createContext, use, useCallback, useEffect, useLayoutEffect, useMemo, useState, type ReactNode } from "react";
import { X } from "lucide-react";
import { cn } from "./cn";
import { Kbd } from "./kbd";

interface Notice {
  says: string;
  look: "plain" | "stop";
  /** Offers to undo what was just done. */
  undo?: boolean;
  /** Offers to redo what was just undone. */
  redo?: boolean;
}

interface Notices {
  notice: Notice | null;
  tell: (notice: Notice | null) => void;
  undo: () => void;
  redo: () => void;
  /** How many margins the page that is shown has. */
  margins: number;
  claim: () => () => void;
}

const nothing = () => undefined;
const Context = createContext<Notices>({
  notice: null,
  tell: nothing,
  undo: nothing,
  redo: nothing,
  margins: 0,
  claim: () => nothing,
});

// Long enough to read and reach for Undo; a refusal stays until it is closed.
const SHOWN_MS = 9_000;

/** What was just done, with its undo. A page with a margin writes it there; the others have it in the top bar. */
export function NoticeProvider({ children }: { children: ReactNode }) {
  const [notice, setNotice] = useState<Notice | null>(null);
  const [margins, setMargins] = useState(0);
  const [acts, setActs] = useState({ undo: nothing as () => void, redo: nothing as () => void });
  useEffect(() => {
    if (notice?.look !== "plain") return;
    const timer = setTimeout(() => setNotice(null), SHOWN_MS);
    return () => clearTimeout(timer);
  }, [notice]);
  const tell = useCallback((next: Notice | null) => setNotice(next), []);
  const claim = useCallback(() => {
    setMargins((count) => count + 1);
    return () => setMargins((count) => count - 1);
  }, []);
  const value = useMemo(() => ({ notice, tell, margins, claim, ...acts }), [notice, tell, margins, claim, acts]);
  return (
    <Context value={value}>
      <SetActs value={setActs}>{children}</SetActs>
    </Context>
  );
}

type Acts = Pick<Notices, "undo" | "redo">;

const SetActs = createContext<(acts: Acts) => void>(nothing);

/** Undo and redo, as the notices offer them. */
export function useNoticeActs(undo: () => void, redo: () => void) {
  const set = use(SetActs);
  useLayoutEffect(() => set({ undo, redo }), [set, undo, redo]);
}

export const useNotice = () => use(Context);

/** The page's margin: a notice is written here and covers nothing. */
export function Margin({ className = "" }: { className?: string }) {
  const { claim, notice } = use(Context);
  useLayoutEffect(claim, [claim]);
  return (
    <div aria-live="polite" className={cn("no-print", className)}>
      {notice && <Written notice={notice} />}
    </div>
  );
}

function Written({ notice }: { notice: Notice }) {
  const { tell, undo, redo } = use(Context);
  return (
    <div
      data-notice
      className={`flex items-start gap-2 border-l-[3px] py-0.5 pl-[11px] text-step leading-snug ${notice.look === "stop" ? "border-stop" : "border-verdigris"}`}
    >
      <p className={`min-w-0 flex-1 ${notice.look === "stop" ? "font-semibold text-stop" : ""}`}>
        {notice.says}{" "}
        {notice.undo && (
          <Act onClick={undo}>
            Undo <Kbd>U</Kbd>
          </Act>
        )}
        {notice.redo && <Act onClick={redo}>Redo</Act>}
      </p>
      <button type="button" aria-label="Close this notice" className="rounded p-1 hover:bg-hair" onClick={() => tell(null)}>
        <X size={16} aria-hidden />
      </button>
    </div>
  );
}

function Act({ onClick, children }: { onClick: () => void; children: ReactNode }) {
  return (
    <button type="button" className="rounded font-semibold whitespace-nowrap underline underline-offset-3" onClick={onClick}>
      {children}
    </button>
  );
}

/** The notice in the top bar, on pages without a margin. */
export function NoticeBar() {
  const { notice, tell, margins, undo, redo } = use(Context);
  if (margins > 0) return null;
  return (
    <div aria-live="polite" className="flex min-w-0 flex-1 justify-center max-md:order-last max-md:basis-full">
      {notice && (
        <div
          data-notice
          className={`flex min-w-0 items-center gap-3 rounded-md px-3 py-1.5 text-note leading-snug max-md:mb-1.5 max-md:min-h-11 max-md:w-full ${notice.look === "stop" ? "bg-stop text-paper" : "bg-top-on text-top-ink"}`}
        >
          <span className="min-w-0">{notice.says}</span>
          {notice.undo && <Act onClick={undo}>Undo</Act>}
          {notice.redo && <Act onClick={redo}>Redo</Act>}
          <button type="button" aria-label="Close this notice" className="ml-auto" onClick={() => tell(null)}>
            <X size={16} aria-hidden />
          </button>
        </div>
      )}
    </div>
  );
}
