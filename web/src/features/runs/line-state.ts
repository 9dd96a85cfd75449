import { placeKey, type Place } from "../ladder/place";

/** A line that was sent, and whose answer has not come yet. */
export interface Sent {
  place: Place;
  line: string;
  /** One key a reading: sent twice, it is one log. */
  key: string;
  /** The connection broke: it is not known whether it was logged. */
  unknown: boolean;
}

/** Why a line was not logged. */
export interface Why {
  line: string;
  says: string;
  /** Doubts about the readings, a sentence each: a second Enter logs it all the same. */
  doubts: string[];
  /** When it was said, by the clock of key presses. */
  at: number;
  /** The run itself was shut: said no longer once it is open. */
  shut?: boolean;
}

/** Everything that is typed and not logged yet. Nothing leaves it but by being logged, or deleted by hand. */
export interface LineState {
  /** The line of each place, by {@link placeKey}. */
  drafts: Record<string, string>;
  sent: Sent | null;
  /** Typed while a line is on its way, or while a refused one waits to be seen to. */
  ahead: string;
  /** Lines that were ended with Enter meanwhile, the first first: each goes to the run at hand once the one before is logged. */
  waiting: string[];
  /** Refused after something else had been typed: it does not push that out of the line. */
  refused: (Why & { place: Place }) | null;
  /** Said of the line at hand. */
  why: Why | null;
}

export const EMPTY: LineState = { drafts: {}, sent: null, ahead: "", waiting: [], refused: null, why: null };

const blank = (text: string) => text.trim() === "";

/** Whether what is typed now is for a later run. */
export const isAhead = (state: LineState) => state.sent !== null || state.refused !== null;

/** What stands in the line. */
export const shownLine = (state: LineState, place: Place) => (isAhead(state) ? state.ahead : (state.drafts[placeKey(place)] ?? ""));

const withDraft = (state: LineState, place: Place, text: string): LineState => {
  const { [placeKey(place)]: _, ...others } = state.drafts;
  return { ...state, drafts: text === "" ? others : { ...others, [placeKey(place)]: text } };
};

/** What was typed. */
export function typed(state: LineState, place: Place, text: string): LineState {
  if (isAhead(state)) return { ...state, ahead: text };
  return { ...withDraft(state, place, text), why: null };
}

/** Enter, while another line is on its way or refused: the line waits. */
export function queued(state: LineState): LineState {
  return blank(state.ahead) ? state : { ...state, waiting: [...state.waiting, state.ahead], ahead: "" };
}

/** A line goes on its way; the line is free for what comes next. */
export function sending(state: LineState, sent: Sent): LineState {
  return { ...withDraft(state, sent.place, ""), sent, why: null };
}

/**
 * It was logged, and the bench is at `next`: what is being typed is in the line there. A line that waits takes an empty line;
 * it never pushes out what is being typed.
 */
export function logged(state: LineState, next: Place): LineState {
  const free = { ...state, sent: null, why: null, ahead: "" };
  const there = state.drafts[placeKey(next)] ?? "";
  const queue = [...state.waiting, there].filter((line) => !blank(line));
  if (!blank(state.ahead)) return { ...withDraft(free, next, state.ahead), waiting: queue };
  const [first = "", ...others] = queue;
  return { ...withDraft(free, next, first), waiting: others };
}

/** It was logged, and the line that waited behind it goes on its way at once; what is being typed stays where it is. */
export const loggedAndOn = (state: LineState, sent: Sent): LineState => ({ ...state, sent, why: null, waiting: state.waiting.slice(1) });

/**
 * It was not logged. It goes back into the line, unless something was typed there meanwhile: then it waits above it, and is taken
 * back by hand.
 */
export function refused(state: LineState, says: string, doubts: string[], at: number): LineState {
  if (!state.sent) return state;
  const { place, line } = state.sent;
  const why = { line, says, doubts, at };
  if (blank(state.ahead) && state.waiting.length === 0) {
    return { ...withDraft({ ...state, sent: null, ahead: "" }, place, line), why };
  }
  return { ...state, sent: null, refused: { ...why, place } };
}

/** The refused line is taken into the line again; what stood there waits. */
export function takenBack(state: LineState): LineState {
  if (!state.refused) return state;
  const { place, ...why } = state.refused;
  const waiting = blank(state.ahead) ? state.waiting : [state.ahead, ...state.waiting];
  return { ...withDraft(state, place, why.line), refused: null, ahead: "", waiting, why };
}

/** The connection broke. */
export const lost = (state: LineState): LineState => (state.sent ? { ...state, sent: { ...state.sent, unknown: true } } : state);

/** Something is said of the line at hand. */
export const told = (state: LineState, why: Why): LineState => ({ ...state, why });

/** The run at hand is open. */
export const opened = (state: LineState): LineState => (state.why?.shut ? { ...state, why: null } : state);

/** A waiting line is thrown away, by hand. */
export const dropped = (state: LineState, index: number): LineState => ({
  ...state,
  waiting: state.waiting.filter((_, i) => i !== index),
});

/** Lines that were typed before the page was there: the first stands in the line, and none is logged unseen. */
export function found(state: LineState, place: Place, lines: string[]): LineState {
  const whole = lines.filter((line) => !blank(line));
  if (whole.length === 0) return state;
  if (isAhead(state)) return { ...state, waiting: [...state.waiting, ...whole] };
  const there = state.drafts[placeKey(place)] ?? "";
  const [first = "", ...others] = blank(there) ? whole : [`${there}${whole[0] ?? ""}`, ...whole.slice(1)];
  return { ...withDraft(state, place, first), waiting: [...others, ...state.waiting] };
}
