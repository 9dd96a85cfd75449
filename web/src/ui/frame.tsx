import { Moon, Sun } from "lucide-react";
import { Suspense, useEffect, useState, type ReactNode } from "react";
import { NavLink, Outlet, useLocation } from "react-router";
import { useAbout, useShelf } from "@/api/queries";
import { KeysDialog } from "./keys-dialog";
import { Kbd } from "./kbd";
import { dropKeys } from "./late-keys";
import { NoticeBar, NoticeProvider } from "./notice";
import { Loading } from "./states";
import { chooseTheme, currentTheme } from "./theme";
import { TopStateProvider, TopStateWords } from "./top-state";
import { UndoList } from "./undo-list";
import { isTyping, useKeys } from "./use-keys";
import { useLeftWrites } from "./use-left-writes";
import { useUndo } from "./use-undo";

/** The top of every page with its notice, the keys that work on all of them, and the live run at the foot. */
export function Frame({ foot }: { foot: ReactNode }) {
  return (
    <NoticeProvider>
      <TopStateProvider>
        <Inner foot={foot} />
      </TopStateProvider>
    </NoticeProvider>
  );
}

/** The amplifier whose bench is shown: undo there leaves its claims alone. */
const benchShown = (path: string) => /^\/amplifiers\/([^/]+)\/runs/.exec(path)?.[1];

function Inner({ foot }: { foot: ReactNode }) {
  const [keysOpen, setKeysOpen] = useState(false);
  const [listOpen, setListOpen] = useState(false);
  const { pathname } = useLocation();
  const { acts, undo, redo } = useUndo(benchShown(pathname));
  useEffect(() => {
    if (benchShown(pathname) === undefined) dropKeys();
  }, [pathname]);
  useLeftWrites();
  useKeys({ "?": () => setKeysOpen(true), z: () => setListOpen(true) });
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      if (!(event.ctrlKey || event.metaKey) || event.altKey || event.repeat || isTyping(event)) return;
      const key = event.key.toLowerCase();
      if (key !== "z" && key !== "y") return;
      event.preventDefault();
      void (key === "y" || event.shiftKey ? redo() : undo());
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [undo, redo]);
  return (
    <div className="flex min-h-screen flex-col">
      <Top openKeys={() => setKeysOpen(true)}>
        <NoticeBar onUndo={() => void undo()} onRedo={() => void redo()} />
        <UndoList acts={acts} open={listOpen} setOpen={setListOpen} onUndo={(act) => void undo(act)} onRedo={(act) => void redo(act)} />
      </Top>
      <NetworkWarning />
      <Suspense fallback={<Loading />}>
        <Outlet />
      </Suspense>
      {foot}
      <KeysDialog open={keysOpen} onClose={() => setKeysOpen(false)} />
    </div>
  );
}

/** On every page, until devices can be paired. */
function NetworkWarning() {
  const { data: about } = useAbout();
  if (!about?.on_network) return null;
  return (
    <p role="alert" className="no-print flex-none bg-ochre-wash px-5 py-1.5 text-note">
      <b>Open to the network:</b> every machine on it can read and change the records, and drive the bench.
    </p>
  );
}

/** Places beside the amplifiers. */
const ASIDES: [string, string][] = [
  ["/benches", "Benches"],
  ["/instruments", "Instruments"],
  ["/incidents", "Incidents"],
];

const link = ({ isActive }: { isActive: boolean }) =>
  `rounded-md px-[11px] py-1.5 font-medium ${isActive ? "bg-top-on text-white" : "text-top-ink2 hover:text-white"}`;

function Top({ openKeys, children }: { openKeys: () => void; children: [notice: ReactNode, undo: ReactNode] }) {
  const shelf = useShelf();
  const { pathname } = useLocation();
  const latest = shelf.data?.amplifiers[0]?.id;
  const here = /^\/amplifiers\/([^/]+)\/(?:plan|runs|verdict|sheet)/.exec(pathname)?.[1];
  const bench = here ?? latest;
  const [notice, undo] = children;
  return (
    <header className="no-print sticky top-0 z-30 flex min-h-[52px] flex-none flex-wrap items-center gap-x-4 bg-top px-5 text-top-ink max-sm:py-1.5">
      <div className="text-xl font-extrabold" style={{ fontStretch: "118%" }}>
        Pukka
        <i className="ml-[3px] inline-block size-[10px] rounded-full border-[2.5px] border-[#e39a6b] align-[6px]" />
      </div>
      <nav aria-label="Places" className="ml-2 flex gap-1">
        <NavLink
          to="/"
          end
          className={({ isActive }) => link({ isActive: isActive || (pathname.startsWith("/amplifiers") && here === undefined) })}
        >
          Shelf
        </NavLink>
        {bench && (
          <NavLink to={`/amplifiers/${bench}/runs`} className={link({ isActive: here !== undefined })}>
            Bench
          </NavLink>
        )}
      </nav>
      {notice}
      <div className="ml-auto flex items-center gap-3 text-note text-top-ink2">
        {ASIDES.map(([to, word]) => (
          <NavLink key={to} to={to} className={({ isActive }) => `rounded px-1 hover:text-white ${isActive ? "text-white" : ""}`}>
            {word}
          </NavLink>
        ))}
        <TopStateWords />
        {undo}
        <ThemeButton />
        <button type="button" aria-label="Keys" className="rounded hover:text-white" onClick={openKeys}>
          <Kbd>?</Kbd>
        </button>
      </div>
    </header>
  );
}

function ThemeButton() {
  const [theme, setTheme] = useState(currentTheme);
  const other = theme === "dark" ? "light" : "dark";
  const Icon = theme === "dark" ? Sun : Moon;
  return (
    <button
      type="button"
      aria-label={`Change to ${other}`}
      className="rounded p-1 hover:text-white"
      onClick={() => {
        chooseTheme(other);
        setTheme(other);
      }}
    >
      <Icon size={16} aria-hidden />
    </button>
  );
}
