import { type Mark } from "./marks";

const LINE = 0.006;
const HEAD = 0.03;
const TYPE = 0.034;

/** The line of a ring or an arrow, in pixels of the photo. */
function lineOf(mark: Mark, width: number, height: number): string | null {
  if (mark.to_x == null || mark.to_y == null) return null;
  const long = Math.max(width, height);
  const [x, y, toX, toY] = [mark.x * width, mark.y * height, mark.to_x * width, mark.to_y * height];
  const length = Math.hypot(toX - x, toY - y);
  if (mark.shape === "ring") {
    const r = Math.max(length, LINE * long);
    return `M${String(x - r)} ${String(y)} A${String(r)} ${String(r)} 0 1 1 ${String(x + r)} ${String(y)} A${String(r)} ${String(r)} 0 1 1 ${String(x - r)} ${String(y)}`;
  }
  if (length === 0) return null;
  const [ux, uy] = [(toX - x) / length, (toY - y) / length];
  const wing = (side: number) => {
    const [back, out] = [HEAD * long, 0.5 * HEAD * long * side];
    return `${String(toX - back * ux - out * uy)} ${String(toY - back * uy + out * ux)}`;
  };
  const tip = `${String(toX)} ${String(toY)}`;
  return `M${String(x)} ${String(y)} L${tip} M${wing(1)} L${tip} L${wing(-1)}`;
}

/** Marks over a photo, as the sheet draws them; the one in hand is thicker. */
export function MarksDrawing({
  marks,
  width,
  height,
  inHand,
}: {
  marks: readonly Mark[];
  width: number;
  height: number;
  inHand: number | null;
}) {
  const long = Math.max(width, height);
  const [line, size] = [LINE * long, TYPE * long];
  return (
    <svg
      viewBox={`0 0 ${String(width)} ${String(height)}`}
      aria-hidden
      fill="none"
      strokeLinecap="round"
      strokeLinejoin="round"
      className="pointer-events-none absolute inset-0 size-full"
    >
      {marks.map((mark, i) => {
        const path = lineOf(mark, width, height);
        const thick = i === inHand ? 1.7 : 1;
        return (
          <g key={i}>
            {path && <path d={path} stroke="#0d1917" strokeWidth={2.2 * line * thick} />}
            {path && <path d={path} stroke="#ffd9a8" strokeWidth={line * thick} />}
            {mark.label && (
              <text
                x={mark.x * width}
                y={mark.y * height + (mark.shape === "label" ? 0.35 : -0.4) * size}
                textAnchor="middle"
                fontSize={size * (i === inHand ? 1.15 : 1)}
                fontWeight={700}
                fill="#ffd9a8"
                stroke="#0d1917"
                strokeWidth={0.22 * size}
                paintOrder="stroke"
              >
                {mark.label}
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}
