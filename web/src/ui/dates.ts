const two = (n: number) => String(n).padStart(2, "0");

/** A day as it is written everywhere: 2026-11-29, by this machine's clock. */
export function day(at: string | Date) {
  const date = new Date(at);
  return `${String(date.getFullYear())}-${two(date.getMonth() + 1)}-${two(date.getDate())}`;
}

/** A moment as it is written everywhere: 2026-11-29 07:45. */
export function moment(at: string | Date) {
  const date = new Date(at);
  return `${day(date)} ${two(date.getHours())}:${two(date.getMinutes())}`;
}

/** Likewise, to the second, where moments follow closely. */
export const second = (at: string | Date) => `${moment(at)}:${two(new Date(at).getSeconds())}`;
