import type { Schemas } from "@/api/client";

export type Wiring = Schemas["Wiring"];

/** A wiring as the value of a choice. */
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
  }
}

export function wiringOf(key: string): Wiring | null {
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
  }
}

/** The wirings an amplifier of so many channels can have, the usual one first. */
export function wiringsFor(channels: number): Wiring[] {
  const count = Number.isInteger(channels) && channels >= 1 && channels <= 16 ? channels : 1;
  const all: Wiring[] = count === 1 ? [{ kind: "mono" }] : [];
  for (let driven = count; driven >= 1; driven--) if (count > 1) all.push({ kind: "channels", driven });
  for (let pairs = Math.floor(count / 2); pairs >= 1; pairs--) all.push({ kind: "bridged", pairs });
  for (let amplifiers = 2; amplifiers <= 4; amplifiers++) all.push({ kind: "strapped", amplifiers });
  return all;
}
