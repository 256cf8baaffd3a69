import type { ZoomTransform } from "d3-zoom";
import { useId } from "react";

const RADIUS = 84;
const POWER = 4;

/** Four times larger under the pointer. */
export function Loupe({ at, content, transform }: { at: [number, number]; content: string; transform: ZoomTransform }) {
  const clip = useId();
  const [x, y] = at;
  return (
    <g pointerEvents="none">
      <clipPath id={clip}>
        <circle cx={x} cy={y} r={RADIUS} />
      </clipPath>
      <circle cx={x} cy={y} r={RADIUS} fill="#eef2f0" />
      <g clipPath={`url(#${clip})`}>
        <g transform={`translate(${x} ${y}) scale(${POWER}) translate(${-x} ${-y}) translate(${transform.x} ${transform.y}) scale(${transform.k})`}>
          <use href={`#${content}`} />
        </g>
        <path d={`M${x - 8} ${y}h16M${x} ${y - 8}v16`} stroke="#16211f" strokeWidth=".8" />
      </g>
      <circle cx={x} cy={y} r={RADIUS} fill="none" stroke="#16211f" strokeWidth="1.5" />
    </g>
  );
}
