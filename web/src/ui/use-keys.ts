import { useEffect, useLayoutEffect, useRef, type RefObject } from "react";
import { keepKey } from "./late-keys";

type Keys = Record<string, (event: KeyboardEvent) => void>;

/** A figure is being typed for so long after a digit: nothing that can be part of a line is a command then. */
const AFTER_A_DIGIT_MS = 1_000;

/** Text is typed here: keys belong to it. */
const FIELDS = "input:not([type=checkbox], [type=radio], [type=file]), textarea, select, [contenteditable=true]";
/** Enter and Space do what these say. */
const PRESSED =
  "button, a[href], summary, input, select, textarea, [role=button], [role=checkbox], [role=radio], [role=tab], [role=option]";
/** Arrows move about in these. */
const WALKED = "[role=radiogroup], [role=tablist], [role=listbox], [role=menu], [role=slider], [role=radio], input[type=radio]";

const maps = new Set<RefObject<Keys>>();
let home: RefObject<HTMLInputElement | null> | null = null;
/** What was typed before is on its way: whatever comes now is meant for the line, and was not typed for a page that is late. */
let busy = false;
let lastDigitMs = -Infinity;

/** The time of the press itself, not of when a busy page came to it. */
addEventListener(
  "keydown",
  (event) => {
    if (/^\d$/.test(event.key)) lastDigitMs = event.timeStamp;
  },
  { capture: true },
);

const target = (event: KeyboardEvent) => (event.target instanceof Element ? event.target : document.body);
const isDialogOpen = () => document.querySelector("[role=dialog], [role=alertdialog]") !== null;
const isModalOpen = () => document.querySelector("[data-modal]") !== null;

/** The line takes commands only while it is empty. */
export function isTyping(event: KeyboardEvent): boolean {
  const at = target(event);
  return at === home?.current ? home.current.value !== "" : at.closest(FIELDS) !== null;
}

function commandOf(event: KeyboardEvent) {
  if (busy || isTyping(event) || isDialogOpen()) return undefined;
  // Caps Lock and Shift make no other key of a letter.
  const letter = event.key.length === 1;
  const name = letter ? event.key.toLowerCase() : event.key;
  if (letter && (event.repeat || event.timeStamp - lastDigitMs < AFTER_A_DIGIT_MS)) return undefined;
  const at = target(event);
  if ((name === "Enter" || name === " ") && at !== home?.current && at.closest(PRESSED)) return undefined;
  if (name.startsWith("Arrow") && at.closest(WALKED)) return undefined;
  return [...maps]
    .reverse()
    .map((map) => map.current[name])
    .find((act) => act !== undefined);
}

/** What is typed beside the line goes into it: the press is let through, and lands where the focus is by then. */
function sendHome(event: KeyboardEvent) {
  const line = home?.current;
  const at = target(event);
  if (!line || at === line || isModalOpen() || at.closest(FIELDS)) return;
  if (event.key === " " && at.closest(PRESSED)) return;
  if (event.key.length !== 1 && event.key !== "Backspace") return;
  line.focus({ preventScroll: true });
  line.setSelectionRange(line.value.length, line.value.length);
}

/** A letter on the empty line waits so long: with others behind it it begins a word (`rear:`, `rest`), and is no command. */
const WORD_MS = 350;
/** Two letters can still be two commands: R and then E. */
const MOST_COMMANDS = 2;
const held: { key: string; act: () => void }[] = [];
let timer = 0;

/** The letters that wait are commands. */
function letGo() {
  clearTimeout(timer);
  const acts = held.splice(0);
  acts.forEach(({ act }) => act());
}

/** Holds a letter that is a command and could be the start of a word; true when it was held. */
function holdBack(event: KeyboardEvent, act: () => void): boolean {
  if (!home?.current || !/^\p{L}$/u.test(event.key)) return false;
  held.push({ key: event.key, act });
  clearTimeout(timer);
  timer = window.setTimeout(letGo, WORD_MS);
  return true;
}

/**
 * Whether the letters that wait are a word: a colon, or a letter that is no command, stands behind them, or they are three. They
 * go into the line then. The same letter again is the command again.
 */
function isWord(event: KeyboardEvent): boolean {
  const last = held.at(-1);
  if (!last || !/^[\p{L}:]$/u.test(event.key) || event.key === last.key || isModalOpen()) return false;
  if (commandOf(event) && held.length < MOST_COMMANDS) return false;
  clearTimeout(timer);
  const word = held
    .splice(0)
    .map(({ key }) => key)
    .join("");
  goHome();
  // The browser's own way to type: the line hears of it as of a key.
  document.execCommand("insertText", false, word);
  return true;
}

addEventListener("keydown", (event) => {
  if (event.defaultPrevented || event.isComposing || event.ctrlKey || event.metaKey || event.altKey) return;
  if (isWord(event)) return;
  if (!commandOf(event) || !/^\p{L}$/u.test(event.key) || event.key === held.at(-1)?.key) letGo();
  if (!isModalOpen() && !target(event).closest(FIELDS) && keepKey(event)) {
    event.preventDefault();
    return;
  }
  const act = commandOf(event);
  if (!act) return sendHome(event);
  event.preventDefault();
  if (!holdBack(event, () => act(event))) act(event);
});

/**
 * Keys of a page. Letters are the same in capitals. They act on the entry line while it is empty, or outside any field; not in a
 * dialog, and not within a second after a digit.
 */
export function useKeys(keys: Keys) {
  const map = useRef(keys);
  useLayoutEffect(() => {
    map.current = keys;
  });
  useEffect(() => {
    maps.add(map);
    return () => void maps.delete(map);
  }, []);
}

/**
 * Makes an input the line of the page: what is typed beside it goes into it, and the focus comes back to it after a dialog.
 * While it is busy no key is a command.
 */
export function useHome(line: RefObject<HTMLInputElement | null>, isBusy: boolean) {
  useLayoutEffect(() => {
    home = line;
    return () => {
      if (home === line) home = null;
    };
  }, [line]);
  useLayoutEffect(() => {
    busy = isBusy;
    return () => {
      busy = false;
    };
  }, [isBusy]);
}

/** Puts the focus on the line of the page; false when it has none. */
export function goHome(): boolean {
  const line = home?.current;
  line?.focus({ preventScroll: true });
  return line != null;
}
