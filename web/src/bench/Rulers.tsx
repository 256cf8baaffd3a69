import type { ZoomTransform } from "d3-zoom";
import { memo } from "react";

import { useUnits } from "../ui/units";

export const RULER_LEFT = 26;
export const RULER_TOP = 22;

const STEPS = { mm: [1, 2, 5, 10, 20, 50, 100], in: [0.0625, 0.125, 0.25, 0.5, 1, 2, 5] };

interface Props {
  size: { width: number; height: number };
  transform: ZoomTransform;
}

/** Rulers along the top and the left in the chosen unit; a hair line follows the pointer. */
export function Rulers({ size, transform, pointer }: Props & { pointer: [number, number] | null }) {
  return (
    <g className="figure" fontSize="9" fill="#52615c" pointerEvents="none" aria-hidden>
      <Ticks size={size} transform={transform} />
      {pointer && (
        <g fill="#0f5c57">
          <rect x={pointer[0]} width="1" height={RULER_TOP} />
          <rect y={pointer[1]} height="1" width={RULER_LEFT} />
        </g>
      )}
    </g>
  );
}

/** What stays while the pointer or a line moves: hundreds of elements. */
const Ticks = memo(function Ticks({ size, transform }: Props) {
  const { unit, toMm } = useUnits();
  const perUnit = transform.k * toMm(1);
  const step = STEPS[unit].find((each) => each * perUnit >= 7) ?? STEPS[unit].at(-1)!;
  const every = step * perUnit >= 40 ? 1 : unit === "in" && step < 1 ? 4 : 5;
  const ticks = (origin: number, from: number, to: number) => {
    const first = Math.ceil((from - origin) / (step * perUnit));
    const last = Math.floor((to - origin) / (step * perUnit));
    return Array.from({ length: Math.max(0, Math.min(last - first + 1, 2000)) }, (_, n) => {
      const index = first + n;
      return { at: origin + index * step * perUnit, long: index % every === 0, text: String(+(index * step).toFixed(4)) };
    });
  };
  return (
    <>
      <rect width={size.width} height={RULER_TOP} fill="#f5f8f6" />
      <rect width={RULER_LEFT} height={size.height} fill="#f5f8f6" />
      {ticks(transform.x, RULER_LEFT, size.width).map((tick) => (
        <g key={tick.at} transform={`translate(${tick.at} 0)`}>
          <rect y={tick.long ? 12 : 17} width="1" height={tick.long ? 10 : 5} fill="#9fb0a8" />
          {tick.long && <text x="3" y="11">{tick.text}</text>}
        </g>
      ))}
      {ticks(transform.y, RULER_TOP, size.height).map((tick) => (
        <g key={tick.at} transform={`translate(0 ${tick.at})`}>
          <rect x={tick.long ? 15 : 21} height="1" width={tick.long ? 11 : 5} fill="#9fb0a8" />
          {tick.long && <text transform="rotate(-90)" x="3" y="12">{tick.text}</text>}
        </g>
      ))}
      <rect width={RULER_LEFT} height={RULER_TOP} fill="#f5f8f6" />
      <text x="4" y="14">{unit}</text>
    </>
  );
});
