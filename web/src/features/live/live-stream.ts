import type { Schemas } from "@/api/client";

type Round = Schemas["Round"];
type LiveState = Schemas["LiveState"];

/** What is known of the live run, in every tab. */
export interface Seen {
  live: LiveState | null;
  rounds: Round[];
  /** Of which live run the rounds are. */
  seq: number | null;
  /** The stream is open; when it is not, what is shown may be old. */
  open: boolean;
}

type Message = { kind: "seen"; seen: Seen } | { kind: "round"; kept: Schemas["KeptRound"] } | { kind: "hello" };

let seen: Seen = { live: null, rounds: [], seq: null, open: false };
const listeners = new Set<() => void>();
const channel = new BroadcastChannel("pukka-live");
let leading = false;
let started = false;

function set(next: Partial<Seen>) {
  seen = { ...seen, ...next };
  listeners.forEach((listener) => listener());
}

function add(kept: Schemas["KeptRound"]) {
  // Another run starts with an empty page.
  const rounds = kept.seq === seen.seq ? [...seen.rounds, kept.round] : [kept.round];
  set({ rounds, seq: kept.seq });
}

channel.onmessage = ({ data }: MessageEvent<Message>) => {
  if (data.kind === "hello") {
    if (leading) channel.postMessage({ kind: "seen", seen } satisfies Message);
  } else if (leading) return;
  else if (data.kind === "seen") set(data.seen);
  else add(data.kept);
};

/**
 * One stream a browser: the tab that holds the lock reads it and tells the others, since a browser keeps only a few
 * connections to one address. When that tab is closed the next one takes over.
 */
function lead(): Promise<void> {
  return new Promise(() => {
    leading = true;
    const stream = new EventSource("/api/live/events");
    stream.onopen = () => set({ open: true });
    // The browser tries again by itself, and says what it has seen last.
    stream.onerror = () => set({ open: false });
    stream.addEventListener("state", ({ data }: MessageEvent<string>) => {
      const { live } = JSON.parse(data) as Schemas["LiveView"];
      set({ live: live ?? null });
      channel.postMessage({ kind: "seen", seen } satisfies Message);
    });
    stream.addEventListener("round", ({ data }: MessageEvent<string>) => {
      const kept = JSON.parse(data) as Schemas["KeptRound"];
      add(kept);
      channel.postMessage({ kind: "round", kept } satisfies Message);
    });
  });
}

function start() {
  if (started) return;
  started = true;
  channel.postMessage({ kind: "hello" } satisfies Message);
  // The lock is held until the tab is closed: the promise never comes to an end.
  void navigator.locks.request("pukka-live", lead);
}

export function subscribe(listener: () => void): () => void {
  start();
  listeners.add(listener);
  return () => listeners.delete(listener);
}

export const current = () => seen;
