/** Seconds as they are counted down: 0:42. */
export function minutes(seconds: number): string {
  const whole = Math.ceil(seconds);
  return `${String(Math.floor(whole / 60))}:${String(whole % 60).padStart(2, "0")}`;
}
