import { Moon, Sun } from "lucide-react";
import { useEffect, useState } from "react";
import { NavLink, Outlet, useLocation } from "react-router";
import { useShelf } from "@/api/queries";
import { LiveBanner } from "@/features/live/live-banner";
import { KeysDialog } from "./keys-dialog";
import { Kbd } from "./kbd";
import { NoticeBar, NoticeProvider } from "./notice";
import { chooseTheme, currentTheme } from "./theme";
import { isTyping, lineHasText } from "./use-keys";
import { useUndo } from "./use-undo";

/** The top of every page, the keys that work on all of them, and the notice at the foot. */
export function Frame() {
  return (
    <NoticeProvider>
      <Inner />
    </NoticeProvider>
  );
}

function Inner() {
  const [keysOpen, setKeysOpen] = useState(false);
  const undo = useUndo();
  useEffect(() => {
    const onKey = (event: KeyboardEvent) => {
      const takesText = isTyping(event) || lineHasText(event);
      if (event.key === "?" && !takesText) {
        event.preventDefault();
        setKeysOpen(true);
      } else if (event.key.toLowerCase() === "z" && (event.ctrlKey || event.metaKey) && !event.shiftKey && !takesText) {
        event.preventDefault();
        void undo();
      }
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [undo]);
  return (
    <div className="flex min-h-screen flex-col">
      <Top openKeys={() => setKeysOpen(true)} />
      <LiveBanner />
      <Outlet />
      <NoticeBar onUndo={() => void undo()} />
      <KeysDialog open={keysOpen} onClose={() => setKeysOpen(false)} />
    </div>
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

function Top({ openKeys }: { openKeys: () => void }) {
  const shelf = useShelf();
  const { pathname } = useLocation();
  const latest = shelf.data?.amplifiers[0]?.id;
  const here = /^\/amplifiers\/([^/]+)\/(?:plan|runs|verdict|sheet)/.exec(pathname)?.[1];
  const bench = here ?? latest;
  return (
    <header className="no-print flex min-h-[52px] flex-none flex-wrap items-center gap-x-4 bg-top px-5 text-top-ink max-sm:py-1.5">
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
      <div className="ml-auto flex items-center gap-3 text-[13px] text-top-ink2">
        {ASIDES.map(([to, word]) => (
          <NavLink key={to} to={to} className={({ isActive }) => `rounded px-1 hover:text-white ${isActive ? "text-white" : ""}`}>
            {word}
          </NavLink>
        ))}
        <span id="bench-state" className="hidden md:inline" />
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
