import { useEffect, useLayoutEffect, useRef, useState, type PointerEvent } from "react";
import type { Schemas } from "@/api/client";
import { BOTTOM, CutHandle, NUDGE_S, TOP } from "./cut-handle";
import { HEIGHT, LEFT, paintWave, RIGHT } from "./paint-wave";
import { along, type Pyramid, type Sight, zoomed } from "./pyramid";
import { KINDS } from "./words";

type Stretch = Schemas["Stretch"];

interface Fingers {
  at: Map<number, number>;
  /** Where the fingers were when they last moved: their middle, and how far they are apart. */
  last: { middle: number; apart: number };
}

/**
 * The wave over time: dragged and pinched along, zoomed by the wheel, its stretches marked. The ends of the chosen stretch can be
 * moved, by pointer or by arrow keys.
 */
export function WaveCanvas({
  pyramid,
  offset,
  rate,
  scale,
  unit,
  sight,
  see,
  stretches,
  chosen,
  onChoose,
  onCut,
}: {
  pyramid: Pyramid;
  /** Sample at which it begins. */
  offset: number;
  rate: number;
  scale: number;
  unit: string;
  sight: Sight;
  see: (next: Sight) => void;
  stretches: readonly Stretch[];
  chosen: { from_s: number; to_s: number } | null;
  onChoose: (index: number) => void;
  onCut: (from_s: number, to_s: number) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [wide, setWide] = useState(800);
  const [theme, setTheme] = useState(0);
  useLayoutEffect(() => {
    const at = box.current;
    if (!at) return;
    const seen = new ResizeObserver(() => setWide(Math.max(200, at.clientWidth)));
    seen.observe(at);
    const painted = new MutationObserver(() => setTheme((n) => n + 1));
    painted.observe(document.documentElement, { attributes: true });
    return () => {
      seen.disconnect();
      painted.disconnect();
    };
  }, []);
  const x = (s: number) => LEFT + ((s - sight.from) / (sight.to - sight.from)) * (wide - LEFT - RIGHT);
  const seconds = (px: number) => sight.from + ((px - LEFT) / (wide - LEFT - RIGHT)) * (sight.to - sight.from);
  useEffect(() => {
    const frame = requestAnimationFrame(() => {
      if (canvas.current) paintWave(canvas.current, { pyramid, offset, rate, scale, unit, sight, wide });
    });
    return () => cancelAnimationFrame(frame);
  }, [pyramid, offset, rate, scale, unit, sight, wide, theme]);
  const seeRef = useRef({ see, sight, seconds });
  useLayoutEffect(() => {
    seeRef.current = { see, sight, seconds };
  });
  useEffect(() => {
    const at = box.current;
    if (!at) return;
    // Not passive: the page stays where it is while the wave is zoomed.
    const onWheel = (event: WheelEvent) => {
      event.preventDefault();
      const { see, sight, seconds } = seeRef.current;
      const place = seconds(event.clientX - at.getBoundingClientRect().left);
      const sideways = Math.abs(event.deltaX) > Math.abs(event.deltaY) || event.shiftKey;
      see(sideways ? along(sight, (event.deltaX || event.deltaY) / wide) : zoomed(sight, place, Math.exp(event.deltaY / 400)));
    };
    at.addEventListener("wheel", onWheel, { passive: false });
    return () => at.removeEventListener("wheel", onWheel);
  }, [wide]);
  const fingers = useRef<Fingers>({ at: new Map(), last: { middle: 0, apart: 0 } });
  const spread = () => {
    const all = [...fingers.current.at.values()];
    const [low, high] = [Math.min(...all), Math.max(...all)];
    return { middle: (low + high) / 2, apart: all.length > 1 ? Math.max(20, high - low) : 0 };
  };
  const place = (event: PointerEvent) => event.clientX - (box.current?.getBoundingClientRect().left ?? 0);
  const onDown = (event: PointerEvent) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    fingers.current.at.set(event.pointerId, place(event));
    fingers.current.last = spread();
  };
  const onMove = (event: PointerEvent) => {
    if (!fingers.current.at.has(event.pointerId)) return;
    fingers.current.at.set(event.pointerId, place(event));
    const { last } = fingers.current;
    const now = spread();
    fingers.current.last = now;
    const by = last.apart > 0 && now.apart > 0 ? last.apart / now.apart : 1;
    see(along(zoomed(sight, seconds(last.middle), by), (last.middle - now.middle) / (wide - LEFT - RIGHT)));
  };
  const onUp = (event: PointerEvent) => {
    fingers.current.at.delete(event.pointerId);
    fingers.current.last = spread();
  };
  return (
    <div ref={box} className="relative touch-none overflow-hidden select-none" style={{ height: `${String(HEIGHT)}px` }}>
      <canvas
        ref={canvas}
        role="img"
        aria-label="Wave over time"
        className="absolute inset-0 cursor-grab active:cursor-grabbing"
        style={{ width: `${String(wide)}px`, height: `${String(HEIGHT)}px` }}
        onPointerDown={onDown}
        onPointerMove={onMove}
        onPointerUp={onUp}
        onPointerCancel={onUp}
      />
      {chosen && (
        <>
          <div
            aria-hidden
            className="pointer-events-none absolute bg-copper/12"
            style={{
              left: `${String(x(chosen.from_s))}px`,
              width: `${String(x(chosen.to_s) - x(chosen.from_s))}px`,
              top: `${String(TOP)}px`,
              bottom: `${String(BOTTOM)}px`,
            }}
          />
          <CutHandle
            label="Start of the stretch"
            at={chosen.from_s}
            x={x(chosen.from_s)}
            seconds={(px) => seconds(px - (box.current?.getBoundingClientRect().left ?? 0))}
            most={chosen.to_s}
            onMoved={(s) => onCut(Math.min(s, chosen.to_s - NUDGE_S), chosen.to_s)}
          />
          <CutHandle
            label="End of the stretch"
            at={chosen.to_s}
            x={x(chosen.to_s)}
            seconds={(px) => seconds(px - (box.current?.getBoundingClientRect().left ?? 0))}
            most={seconds(wide)}
            onMoved={(s) => onCut(chosen.from_s, Math.max(s, chosen.from_s + NUDGE_S))}
          />
        </>
      )}
      {stretches.map((stretch, n) => {
        const [from, to] = [Math.max(x(stretch.from_s), LEFT), Math.min(x(stretch.to_s), wide - RIGHT)];
        if (stretch.kind === "quiet" || to - from < 3) return null;
        return (
          <button
            key={n}
            type="button"
            className="absolute top-0 truncate border-t-[3px] border-verdigris px-1 text-left text-sm text-ink2 hover:bg-hair"
            style={{ left: `${String(from)}px`, width: `${String(to - from)}px`, height: `${String(TOP - 4)}px` }}
            onClick={() => onChoose(n)}
          >
            {to - from > 44 && KINDS[stretch.kind]}
            <span className="sr-only">, stretch {n + 1}</span>
          </button>
        );
      })}
    </div>
  );
}
