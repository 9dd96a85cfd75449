/**
 * What is typed before the entry line is there: while the page is fetched, and while its records are read. It is kept and goes
 * into the line; none of it is a command.
 */

declare global {
  interface Window {
    /** Of public/early-keys.js: ends its keeping, and gives what it kept. */
    pukkaEarlyKeys?: () => string[];
  }
}

/** Addresses that have an entry line. */
const hasLine = (path: string) => /^\/amplifiers\/[^/]+\/runs\/?$/.test(path);

const early = window.pukkaEarlyKeys?.() ?? [];
const kept: string[] = hasLine(location.pathname) ? [...early] : [];
let keeping = hasLine(location.pathname);

/** Begins to keep what is typed: the line is on its way. */
export function keepKeys() {
  keeping = true;
}

/** Another page is shown: what was typed was for none of its keys. */
export function dropKeys() {
  keeping = false;
  kept.length = 0;
}

/** Keeps a key, when there is a line on its way. */
export function keepKey(event: KeyboardEvent): boolean {
  if (!keeping || !(event.key.length === 1 || event.key === "Backspace" || event.key === "Enter")) return false;
  kept.push(event.key);
  return true;
}

/** The lines that were typed; the last of them was not ended with Enter. */
export function takeLines(): string[] {
  keeping = false;
  const lines = [""];
  for (const key of kept.splice(0)) {
    const last = lines.length - 1;
    if (key === "Enter") lines.push("");
    else lines[last] = key === "Backspace" ? (lines[last] ?? "").slice(0, -1) : `${lines[last] ?? ""}${key}`;
  }
  return lines;
}
