import type { Schemas } from "@/api/client";
import { readNumber, writeNumber, type Unit } from "./numbers";

export type Wiring = Schemas["Wiring"];
type Group = Schemas["Group"];
type GroupWiring = Schemas["GroupWiring"];

const MIXED = "mixed";

/** A wiring as the value of a choice; of a mixed one its groups, without their loads, which are typed. */
export function wiringKey(wiring: Wiring): string {
  switch (wiring.kind) {
    case "mono":
      return "mono";
    case "channels":
      return `channels-${String(wiring.driven)}`;
    case "bridged":
      return `bridged-${String(wiring.pairs)}`;
    case "strapped":
      return `strapped-${String(wiring.amplifiers)}`;
    case "mixed":
      return [MIXED, ...wiring.groups.map((group) => wiringKey(group.wiring))].join("~");
  }
}

function plainOf(key: string): Wiring | null {
  const [kind, count = "0"] = key.split("-");
  const n = Number(count);
  switch (kind) {
    case "mono":
      return { kind };
    case "channels":
      return { kind, driven: n };
    case "bridged":
      return { kind, pairs: n };
    case "strapped":
      return { kind, amplifiers: n };
    default:
      return null;
  }
}

/** Whether the value of a choice is a mixed wiring: its loads, tones and watts are typed a group. */
export const isMixed = (key: string) => key.startsWith(`${MIXED}~`);

const groupsOf = (key: string) =>
  key
    .split("~")
    .slice(1)
    .map((group) => plainOf(group) as GroupWiring);

/** The wiring that a choice names. A mixed one takes the loads typed for its groups, and the tones where they differ. */
export function wiringOf(key: string, loads: number[] = [], tones: number[] = []): Wiring | null {
  if (!isMixed(key)) return plainOf(key);
  const groups = groupsOf(key).map((wiring, i): Group => {
    const tone_hz = tones[i];
    const load_ohm = loads[i] ?? loads[0] ?? 0;
    return tone_hz === undefined || tone_hz === tones[0] ? { wiring, load_ohm } : { wiring, load_ohm, tone_hz };
  });
  return { kind: "mixed", groups };
}

/** Figures typed for the groups of a mixed wiring, set apart by a +; one figure stands for all of them. */
export function readGroups(key: string, text: string, unit: Unit): number[] {
  const figures = text.split("+").map((part) => readNumber(part, unit));
  const read = figures.filter((figure) => figure !== null);
  if (text.trim() === "") return [];
  const groups = groupsOf(key);
  if (read.length !== figures.length || (read.length !== 1 && read.length !== groups.length)) {
    throw new Error(
      `One for each of the ${String(groups.length)} groups, with a + between: ${groups.map((_, i) => (i === 0 ? "4" : "2")).join(" + ")}.`,
    );
  }
  return groups.map((_, i) => read[i] ?? read[0] ?? 0);
}

/** Figures of groups as they are typed. */
export const writeGroups = (figures: number[]) => figures.map(writeNumber).join(" + ");

/** What a group is, in words: "2 channels". */
export function wiringWords(wiring: Wiring): string {
  switch (wiring.kind) {
    case "mono":
      return "mono";
    case "channels":
      return wiring.driven === 1 ? "1 channel" : `${String(wiring.driven)} channels`;
    case "bridged":
      return wiring.pairs === 1 ? "1 bridged pair" : `${String(wiring.pairs)} bridged pairs`;
    case "strapped":
      return `${String(wiring.amplifiers)} strapped`;
    case "mixed":
      return wiring.groups.map((group) => wiringWords(group.wiring)).join(" + ");
  }
}

/** The load of a claim in words: one, or one a group. */
export function loadWords(wiring: Wiring | null | undefined, loadOhm: number | null | undefined): string | null {
  const loads = wiring?.kind === "mixed" ? wiring.groups.map((group) => group.load_ohm) : loadOhm == null ? [] : [loadOhm];
  return loads.length === 0 ? null : `${writeGroups(loads)}\u202fΩ`;
}

/** The wirings an amplifier of so many channels can have, the usual one first. */
export function wiringsFor(channels: number): Wiring[] {
  const count = countOf(channels);
  const all: Wiring[] = count === 1 ? [{ kind: "mono" }] : [];
  for (let driven = count; driven >= 1; driven--) if (count > 1) all.push({ kind: "channels", driven });
  for (let pairs = Math.floor(count / 2); pairs >= 1; pairs--) all.push({ kind: "bridged", pairs });
  for (let amplifiers = 2; amplifiers <= 4; amplifiers++) all.push({ kind: "strapped", amplifiers });
  return all;
}

/** The usual mixed wirings: every channel at work, some of them bridged; of an odd number one that is a channel by itself. */
export function mixedWiringsFor(channels: number): Wiring[] {
  const count = countOf(channels);
  const all: Wiring[] = [];
  const group = (wiring: GroupWiring): Group => ({ wiring, load_ohm: 0 });
  for (let pairs = 1; count - 2 * pairs >= 1; pairs++) {
    all.push({ kind: "mixed", groups: [group({ kind: "channels", driven: count - 2 * pairs }), group({ kind: "bridged", pairs })] });
  }
  if (count % 2 === 1 && count > 2) {
    all.push({ kind: "mixed", groups: [group({ kind: "channels", driven: count - 1 }), group({ kind: "channels", driven: 1 })] });
  }
  return all;
}

const countOf = (channels: number) => (Number.isInteger(channels) && channels >= 1 && channels <= 16 ? channels : 1);
