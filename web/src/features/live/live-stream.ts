import type { Schemas } from "@/api/client";
import { lead } from "./lead";

type Round = Schemas["Round"];
type LiveState = Schemas["LiveState"];

/** What is known of the live run, in every tab. */
export interface Seen {
  live: LiveState | null;
  rounds: Round[];
  /** Of which live run the rounds are. */
  seq: number | null;
  /** Number of the last of them. */
  last: number;
  /** The program is heard; when it is not, what is shown may be old, and a stop may not reach it. */
  open: boolean;
}

type Change = Schemas["Change"];

type Message =
  { kind: "seen"; seen: Seen } | { kind: "round"; kept: Schemas["KeptRound"] } | { kind: "change"; change: Change } | { kind: "hello" };

/** The program says something every second: after so long it is not heard any more. */
const SILENT_AFTER_MS = 3_500;

let seen: Seen = { live: null, rounds: [], seq: null, last: -1, open: false };
const listeners = new Set<() => void>();
const changeListeners = new Set<(change: Change) => void>();
const channel = new BroadcastChannel("pukka-live");
let leading = false;
let started = false;

function set(next: Partial<Seen>) {
  seen = { ...seen, ...next };
  listeners.forEach((listener) => listener());
}

/** What the leading tab knows, the others know as well. */
function share(next: Partial<Seen>) {
  set(next);
  channel.postMessage({ kind: "seen", seen } satisfies Message);
}

function add(kept: Schemas["KeptRound"]) {
  // Another run starts with an empty page. A stretch that comes again, after a connection that broke, is drawn once.
  const same = kept.seq === seen.seq;
  if (same && kept.n <= seen.last) return;
  set({ rounds: same ? [...seen.rounds, kept.round] : [kept.round], seq: kept.seq, last: kept.n });
}

function changed(change: Change) {
  changeListeners.forEach((listener) => listener(change));
}

channel.onmessage = ({ data }: MessageEvent<Message>) => {
  if (data.kind === "hello") {
    if (leading) channel.postMessage({ kind: "seen", seen } satisfies Message);
  } else if (leading) return;
  else if (data.kind === "seen") set(data.seen);
  else if (data.kind === "change") changed(data.change);
  else add(data.kept);
};

/**
 * One stream a browser: the tab that leads reads it and tells the others, since a browser keeps only a few connections to one
 * address.
 */
function read() {
  leading = true;
  const stream = new EventSource("/api/live/events");
  let silent: ReturnType<typeof setTimeout> | undefined;
  const heard = () => {
    clearTimeout(silent);
    silent = setTimeout(() => share({ open: false }), SILENT_AFTER_MS);
    if (!seen.open) share({ open: true });
  };
  stream.onopen = heard;
  stream.addEventListener("beat", heard);
  // The browser tries again by itself, and says what it has seen last.
  stream.onerror = () => {
    clearTimeout(silent);
    share({ open: false });
  };
  stream.addEventListener("state", ({ data }: MessageEvent<string>) => {
    const { live } = JSON.parse(data) as Schemas["LiveView"];
    share({ live: live ?? null, open: true });
    heard();
  });
  stream.addEventListener("change", ({ data }: MessageEvent<string>) => {
    const change = JSON.parse(data) as Change;
    changed(change);
    channel.postMessage({ kind: "change", change } satisfies Message);
    heard();
  });
  stream.addEventListener("round", ({ data }: MessageEvent<string>) => {
    const kept = JSON.parse(data) as Schemas["KeptRound"];
    add(kept);
    channel.postMessage({ kind: "round", kept } satisfies Message);
    heard();
  });
}

/** Hears of every change of the records, whichever tab or machine it was made in. */
export function onChange(listener: (change: Change) => void): () => void {
  start();
  changeListeners.add(listener);
  return () => changeListeners.delete(listener);
}

function start() {
  if (started) return;
  started = true;
  channel.postMessage({ kind: "hello" } satisfies Message);
  lead("pukka-live", read);
}

export function subscribe(listener: () => void): () => void {
  start();
  listeners.add(listener);
  return () => listeners.delete(listener);
}

export const current = () => seen;
