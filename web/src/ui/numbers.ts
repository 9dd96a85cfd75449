/** A number as typed into a form: a decimal comma or point. Two readings in one are asked about, as on the entry line. */
export function readNumber(text: string): number | null {
  const plain = text.trim().replace(/[\u202f\u00a0\u2009]/g, "");
  if (plain === "") return null;
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
    const amps = readNumber((times?.[2] ?? part).replace(/\s*a\s*$/i, ""));
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

/** Digits that a reading can have; behind them is only the dust of binary fractions. */
const MOST_DIGITS = 12;

/** A number as people type it. */
export const writeNumber = (value: number | null | undefined) => (value == null ? "" : String(Number(value.toPrecision(MOST_DIGITS))));

/** A fraction as the percentage people type: 0.0099 is 0.99. */
export const writePercent = (ratio: number | null | undefined) => writeNumber(ratio == null ? null : ratio * 100);
