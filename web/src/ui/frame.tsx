import { Moon, Sun } from "lucide-react";
import { lazy, Suspense, useCallback, useEffect, useState, type MouseEvent, type ReactNode } from "react";
import { Link, NavLink, Outlet, useLocation } from "react-router";
import { useAbout, useLatest } from "@/api/queries";
import { Kbd } from "./kbd";
import { dropKeys } from "./late-keys";
import { LinkLight } from "./link-light";
import { NoticeBar, NoticeProvider, useNoticeActs } from "./notice";
import { Loading } from "./states";
import { chooseTheme, currentTheme } from "./theme";
import { TopStateProvider, TopStateWords } from "./top-state";
import { UndoList } from "./undo-list";
import { isTyping, useKeys } from "./use-keys";
import { useLeftWrites } from "./use-left-writes";
import { useCopiedFigures } from "./use-copied-figures";
import { useUndo } from "./use-undo";

const KeysDialog = lazy(async () => ({ default: (await import("./keys-dialog")).KeysDialog }));

/** The top of every page, the keys that work on all of them, and the live run at the foot. */
export function Frame({ foot, linked }: { foot: ReactNode; linked: boolean | null }) {
  return (
    <NoticeProvider>
      <TopStateProvider>
        <Inner foot={foot} linked={linked} />
      </TopStateProvider>
    </NoticeProvider>
  );
}

/** The amplifier whose bench is shown: undo there leaves its claims alone. */
const benchShown = (path: string) => /^\/amplifiers\/([^/]+)\/runs/.exec(path)?.[1];

function Inner({ foot, linked }: { foot: ReactNode; linked: boolean | null }) {
  const [keysOpen, setKeysOpen] = useState(false);
  const [listOpen, setListOpen] = useState(false);
  const { pathname } = useLocation();
  const { acts, undo, redo } = useUndo(benchShown(pathname));
  useEffect(() => {
    if (benchShown(pathname) === undefined) dropKeys();
  }, [pathname]);
  const takeBack = useCallback(() => void undo(), [undo]);
  const doAgain = useCallback(() => void redo(), [redo]);
  useNoticeActs(takeBack, doAgain);
  useLeftWrites();
  useCopiedFigures();
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
      <Top openKeys={() => setKeysOpen(true)} linked={linked}>
        <NoticeBar />
        <UndoList acts={acts} open={listOpen} setOpen={setListOpen} onUndo={(act) => void undo(act)} onRedo={(act) => void redo(act)} />
      </Top>
      <NetworkWarning />
      <DamageWarning />
      <Suspense fallback={<Loading />}>
        <Outlet />
      </Suspense>
      {foot}
      {keysOpen && (
        <Suspense>
          <KeysDialog open onClose={() => setKeysOpen(false)} />
        </Suspense>
      )}
    </div>
  );
}

/** To the main part of the page, past the places. */
function skip(event: MouseEvent) {
  event.preventDefault();
  const main = document.querySelector<HTMLElement>("main");
  if (!main) return;
  main.tabIndex = -1;
  main.focus();
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

/** On every page, while the records are only read. */
function DamageWarning() {
  const { data: about } = useAbout();
  if (!about?.is_read_only) return null;
  return (
    <p role="alert" className="no-print flex-none bg-stop-wash px-5 py-1.5 text-note">
      <b>The records are damaged:</b> they are read, and nothing is saved. Export what can be read, and{" "}
      <Link className="underline" to="/set-up/backups">
        restore a backup
      </Link>
      .
    </p>
  );
}

const link = ({ isActive }: { isActive: boolean }) =>
  `rounded-md px-[11px] py-1.5 font-medium max-sm:px-[5px] max-sm:text-note ${isActive ? "bg-top-on text-white" : "text-top-ink2 hover:text-white"}`;

/** Where the bench is: the amplifier that is shown, else the one of the last bench page, else the newest. */
function useBench(pathname: string) {
  const latest = useLatest();
  const here = /^\/amplifiers\/([^/]+)\/(?:plan|runs|verdict|sheet|claims|traces)/.exec(pathname)?.[1];
  const isBench = here !== undefined && !pathname.endsWith("/traces");
  return { bench: here ?? latest.data?.amplifiers[0]?.id, isBench };
}

function Top({
  openKeys,
  linked,
  children,
}: {
  openKeys: () => void;
  linked: boolean | null;
  children: [notice: ReactNode, undo: ReactNode];
}) {
  const { pathname } = useLocation();
  const { bench, isBench } = useBench(pathname);
  const [notice, undo] = children;
  return (
    <header className="no-print sticky top-0 z-30 flex min-h-[52px] flex-none flex-wrap items-center gap-x-4 bg-top px-4 text-top-ink max-sm:gap-x-1.5 max-sm:px-2.5 sm:px-5 md:low:min-h-[42px]">
      <a
        href="#content"
        className="no-print sr-only z-50 rounded-md bg-sheet px-4 py-2 font-semibold focus:not-sr-only focus:fixed focus:top-2 focus:left-2"
        onClick={skip}
      >
        Skip to content
      </a>
      <div className="text-xl font-extrabold" style={{ fontStretch: "118%" }}>
        <span className="max-sm:sr-only">Pukka</span>
        <i className="ml-[3px] inline-block size-[10px] rounded-full border-[2.5px] border-[#e39a6b] align-[6px]" />
      </div>
      <nav aria-label="Places" className="flex sm:ml-2 sm:gap-1">
        <NavLink
          to="/"
          end
          className={({ isActive }) =>
            link({ isActive: isActive || (pathname.startsWith("/amplifiers") && !isBench && !pathname.endsWith("/traces")) })
          }
        >
          Shelf
        </NavLink>
        {bench && (
          <NavLink to={`/amplifiers/${bench}/runs`} className={link({ isActive: isBench })}>
            Bench
          </NavLink>
        )}
        {bench && (
          <NavLink to={`/amplifiers/${bench}/traces`} className={link}>
            Traces
          </NavLink>
        )}
        <NavLink to="/compare" className={link}>
          Compare
        </NavLink>
      </nav>
      {notice}
      <div className="ml-auto flex items-center gap-1.5 text-note text-top-ink2 sm:gap-3">
        <TopStateWords />
        <LinkLight linked={linked} />
        <NavLink
          to="/set-up"
          className={({ isActive }) => `rounded px-1 py-1.5 hover:text-white ${isActive ? "text-white underline underline-offset-4" : ""}`}
        >
          Set-up
        </NavLink>
        {undo}
        <ThemeButton />
        <button type="button" aria-label="Keys" className="rounded py-1.5 hover:text-white max-sm:hidden" onClick={openKeys}>
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
