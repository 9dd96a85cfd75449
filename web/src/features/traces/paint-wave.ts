import { ticks } from "@/ui/axis";
import { writeDigits } from "@/ui/numbers";
import { BOTTOM, TOP } from "./cut-handle";
import { columns, type Pyramid, type Sight } from "./pyramid";

export const HEIGHT = 210;
/** Room for the scale of volts, and at the other end. */
export const [LEFT, RIGHT] = [54, 10];

const colour = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(`--color-${name}`).trim();

/** Draws the wave that is in sight: a column a pixel, with its scales. */
export function paintWave(
  canvas: HTMLCanvasElement,
  {
    pyramid,
    offset,
    rate,
    scale,
    unit,
    sight,
    wide,
  }: { pyramid: Pyramid; offset: number; rate: number; scale: number; unit: string; sight: Sight; wide: number },
) {
  const dpr = window.devicePixelRatio || 1;
  if (canvas.width !== wide * dpr || canvas.height !== HEIGHT * dpr) {
    canvas.width = wide * dpr;
    canvas.height = HEIGHT * dpr;
  }
  const context = canvas.getContext("2d");
  if (!context) return;
  context.setTransform(dpr, 0, 0, dpr, 0, 0);
  context.clearRect(0, 0, wide, HEIGHT);
  const room = wide - LEFT - RIGHT;
  const shown = columns(pyramid, sight.from * rate - offset, sight.to * rate - offset, Math.ceil(room));
  const most = scale * Math.max(1e-9, ...shown.map(([low, high]) => Math.max(-low, high)));
  const least = scale * Math.min(...shown.map(([low]) => low));
  // A supply stays above nothing: its own range is shown.
  const positive = least > 0.3 * most;
  const [bottom, top] = positive
    ? [least - 0.15 * (most - least) - 0.02 * most, most + 0.15 * (most - least) + 0.02 * most]
    : [-1.08 * most, 1.08 * most];
  const y = (value: number) => TOP + ((top - value) / (top - bottom)) * (HEIGHT - TOP - BOTTOM);
  context.font = "12px Figures, monospace";
  context.fillStyle = colour("ink2");
  context.strokeStyle = colour("hair");
  context.lineWidth = 1;
  for (const value of ticks(bottom, top, 6)) {
    context.beginPath();
    context.moveTo(LEFT, y(value));
    context.lineTo(wide - RIGHT, y(value));
    context.stroke();
    context.textAlign = "right";
    context.fillText(`${writeDigits(value, 4)} ${unit}`, LEFT - 6, y(value) + 4);
    context.textAlign = "left";
  }
  const inMs = sight.to - sight.from < 1;
  for (const s of ticks(sight.from, sight.to, 6)) {
    const px = LEFT + ((s - sight.from) / (sight.to - sight.from)) * room;
    const words = inMs ? `${writeDigits(1_000 * s, 6)} ms` : `${writeDigits(s, 5)} s`;
    context.fillRect(px, HEIGHT - BOTTOM, 1, 5);
    if (px + 2 + context.measureText(words).width < wide) context.fillText(words, px + 2, HEIGHT - 8);
  }
  context.fillStyle = colour("verdigris");
  context.strokeStyle = colour("verdigris");
  context.lineWidth = 1.5;
  context.beginPath();
  // Column by column, each joined to the one before, so that a single line stays one.
  shown.forEach(([low, high], n) => {
    const px = LEFT + n + 0.5;
    if (n === 0) context.moveTo(px, y(scale * high));
    context.lineTo(px, y(scale * high));
    context.lineTo(px, y(scale * low));
  });
  context.stroke();
}
