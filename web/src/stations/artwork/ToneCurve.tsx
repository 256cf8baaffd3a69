import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";

const LEVELS = [64, 128, 192];
const NAMES = ["Shadows", "Middle tones", "Highlights"];
const SIDE = 132;

type Curve = [number, number][];

const toCurve = (heights: number[]): Curve =>
  heights.every((height, n) => height === LEVELS[n]) ? [] : [[0, 0], ...LEVELS.map((level, n): [number, number] => [level, heights[n]!]), [255, 255]];

const heightsOf = (curve: Curve) => LEVELS.map((level) => curve.find(([at]) => at === level)?.[1] ?? level);

/** Shadows, middle tones and highlights on one curve: dragged, or moved by the arrow keys. */
export function ToneCurve({ curve, onMove, onKeep }: { curve: Curve; onMove: (curve: Curve) => void; onKeep: (curve: Curve) => void }) {
  const [heights, setHeights] = useState(heightsOf(curve));
  const held = useRef<number | null>(null);
  const told = JSON.stringify(curve);
  useEffect(() => setHeights(heightsOf(JSON.parse(told) as Curve)), [told]);
  const set = (index: number, height: number, keep = false) => {
    const next = heights.map((each, n) => (n === index ? Math.min(255, Math.max(0, Math.round(height))) : each));
    setHeights(next);
    (keep ? onKeep : onMove)(toCurve(next));
  };
  const drag = (event: PointerEvent<SVGSVGElement>) => {
    if (held.current === null) return;
    const box = event.currentTarget.getBoundingClientRect();
    set(held.current, 255 * (1 - (event.clientY - box.top) / box.height));
  };
  const key = (index: number) => (event: KeyboardEvent) => {
    const by = { ArrowUp: 2, ArrowDown: -2, PageUp: 10, PageDown: -10 }[event.key];
    if (!by) return;
    event.preventDefault();
    set(index, heights[index]! + by, true);
  };
  const at = (level: number, height: number) => [(level / 255) * SIDE, SIDE - (height / 255) * SIDE] as const;
  const line = [[0, 0], ...LEVELS.map((level, n) => [level, heights[n]!]), [255, 255]].map(([x, y]) => at(x!, y!).join(" ")).join("L");
  return (
    <div className="flex items-start gap-3 px-3.5 py-1">
      <span className="grow text-quiet">Curve<span className="block text-[12px]">dark left, light right; up is lighter</span></span>
      <svg
        width={SIDE}
        height={SIDE}
        className="shrink-0 touch-none rounded border border-rule bg-paper"
        onPointerMove={drag}
        onPointerUp={() => {
          if (held.current !== null) onKeep(toCurve(heights));
          held.current = null;
        }}
      >
        <path d={`M0 ${SIDE}L${SIDE} 0`} stroke="#c3cec8" strokeDasharray="3 3" />
        <path d={`M${line}`} fill="none" stroke="#0f5c57" strokeWidth="1.6" />
        {LEVELS.map((level, index) => {
          const [x, y] = at(level, heights[index]!);
          return (
            <circle
              key={level}
              cx={x}
              cy={y}
              r="6"
              fill="#fff"
              stroke="#0f5c57"
              strokeWidth="2"
              tabIndex={0}
              role="slider"
              aria-label={NAMES[index]}
              aria-valuemin={0}
              aria-valuemax={255}
              aria-valuenow={heights[index]}
              className="cursor-ns-resize"
              onKeyDown={key(index)}
              onPointerDown={(event) => {
                held.current = index;
                event.currentTarget.ownerSVGElement?.setPointerCapture(event.pointerId);
              }}
            />
          );
        })}
      </svg>
    </div>
  );
}
