/** Digits that a reading can have; behind them is only the dust of binary fractions. */
const MOST_DIGITS = 12;

/** What a field is in. */
export type Unit = "mm" | "m" | "kg" | "V" | "A" | "Ω" | "mΩ" | "W" | "Hz" | "%" | "dB" | "s" | "°C" | "µF" | "money";

/** How people write each unit, and how many of the field's own it is. */
const SPELLINGS: Record<Unit, Record<string, number>> = {
  mm: { mm: 1, cm: 10, m: 1000, in: 25.4, inch: 25.4, inches: 25.4, '"': 25.4, "″": 25.4 },
  m: { m: 1, cm: 0.01, mm: 0.001, ft: 0.3048, feet: 0.3048, in: 0.0254, '"': 0.0254 },
  kg: { kg: 1, g: 0.001, lb: 0.45359237, lbs: 0.45359237, pound: 0.45359237, pounds: 0.45359237, oz: 0.028349523125 },
  V: { v: 1, volt: 1, volts: 1, vdc: 1, mv: 0.001 },
  A: { a: 1, amp: 1, amps: 1, ma: 0.001 },
  Ω: { ω: 1, ohm: 1, ohms: 1, r: 1 },
  mΩ: { mω: 1, mohm: 1, milliohm: 1, milliohms: 1, ω: 1000, ohm: 1000, ohms: 1000 },
  W: { w: 1, watt: 1, watts: 1, kw: 1000 },
  Hz: { hz: 1, khz: 1000 },
  "%": { "%": 1, percent: 1 },
  dB: { db: 1 },
  s: { s: 1, sec: 1, min: 60 },
  "°C": { "°c": 1, c: 1, "°": 1 },
  µF: { µf: 1, μf: 1, uf: 1, mfd: 1, mf: 1000 },
  money: { "£": 1, "€": 1, $: 1, gbp: 1, eur: 1, usd: 1 },
};

/** A figure without the unit typed with it, and how many of the field's own that unit is. */
function apart(text: string, unit: Unit): { figure: string; times: number } {
  const match = /^([£€$]?)\s*(.*?[\d.,])\s*([^\d\s.,−-].*)?$/u.exec(text);
  if (!match) return { figure: text, times: 1 };
  const [, before = "", figure = "", behind = ""] = match;
  const spelled = (behind.trim() || before).toLowerCase().replace("\u2126", "ω");
  if (spelled === "") return { figure, times: 1 };
  const times = SPELLINGS[unit][spelled] ?? SPELLINGS[unit][spelled.replace(/\.$/, "")];
  if (/^e[+-]?\d/i.test(spelled)) throw new Error(`“${text.slice(0, 30)}” is not a number.`);
  if (times === undefined || (before !== "" && unit !== "money")) {
    throw new Error(`“${text.slice(0, 30)}” is not in ${unit === "money" ? "money" : unit}.`);
  }
  return { figure, times };
}

/**
 * A number as typed into a form: a decimal comma or point, with or without its unit.
 * Two readings in one are asked about, as on the entry line.
 */
export function readNumber(text: string, unit?: Unit): number | null {
  const typed = text.trim().replace(/[\u202f\u00a0\u2009]/g, "");
  if (typed === "") return null;
  if (unit) {
    const { figure, times } = apart(typed, unit);
    const value = readNumber(figure);
    return value === null || times === 1 ? value : Number((value * times).toPrecision(MOST_DIGITS));
  }
  const plain = typed;
  if (/^[1-9]\d{0,2}[.,]\d{3}$/.test(plain)) {
    const whole = plain.replace(/[.,]/, "");
    throw new Error(`${whole} or ${plain.replace(",", ".")}? Type ${whole}, or ${plain}0.`);
  }
  if (!/^-?\d+(?:[.,]\d*)?$|^-?[.,]\d+$/.test(plain)) throw new Error(`“${text.trim().slice(0, 30)}” is not a number.`);
  return Number(plain.replace(",", "."));
}

/** Fuses as people note them: `3 x 35`, `25 + 25 + 30`. */
export function readFuses(text: string): number[] {
  const parts = text.split(/[+;]/).filter((part) => part.trim() !== "");
  return parts.flatMap((part) => {
    const times = /^\s*(\d{1,2})\s*[x×*]\s*(.+)$/i.exec(part);
    const amps = readNumber(times?.[2] ?? part, "A");
    if (amps === null) throw new Error(`“${part.trim()}” is not a fuse.`);
    return Array.from({ length: Number(times?.[1] ?? 1) }, () => amps);
  });
}

/** The shortest way to write the same fuses again. */
export function writeFuses(fuses: number[]): string {
  const [first] = fuses;
  if (first === undefined) return "";
  const same = fuses.every((fuse) => fuse === first);
  return same && fuses.length > 1 ? `${String(fuses.length)} x ${String(first)}` : fuses.join(" + ");
}

/** A number as people type it. */
export const writeNumber = (value: number | null | undefined) => (value == null ? "" : writeDigits(value, MOST_DIGITS));

/** A number with so many digits at the most. */
export const writeDigits = (value: number, digits: number) => String(Number(value.toPrecision(digits)));

/** A fraction as the percentage people type: 0.0099 is 0.99. */
export const writePercent = (ratio: number | null | undefined) => writeNumber(ratio == null ? null : ratio * 100);

/** Digits of a whole number in threes: 1 100. */
export const inThousands = (value: number) => String(value).replace(/\B(?=(\d{3})+(?!\d))/g, "\u202f");
