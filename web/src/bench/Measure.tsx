import type { ZoomTransform } from "d3-zoom";
import { type RefObject, useEffect, useRef, useState } from "react";

import { useUnits } from "../ui/units";

interface Props {
  transform: ZoomTransform;
  pointer: [number, number] | null;
  svg: RefObject<SVGSVGElement | null>;
}

/** Click two points: their distance, across and down. A third click begins again. */
export function Measure({ transform, pointer, svg }: Props) {
  const { length, figure } = useUnits();
  const [points, setPoints] = useState<[number, number][]>([]);
  const now = useRef(transform);
  now.current = transform;

  useEffect(() => {
    const element = svg.current!;
    const click = (event: MouseEvent) => {
      const frame = element.getBoundingClientRect();
      const t = now.current;
      const at: [number, number] = [(event.clientX - frame.left - t.x) / t.k, (event.clientY - frame.top - t.y) / t.k];
      setPoints((before) => (before.length === 1 ? [before[0]!, at] : [at]));
    };
    element.addEventListener("click", click);
    return () => element.removeEventListener("click", click);
  }, [svg]);

  const [from, fixed] = points;
  const to = fixed ?? (pointer && ([(pointer[0] - transform.x) / transform.k, (pointer[1] - transform.y) / transform.k] as const));
  if (!from || !to)
    return (
      <text x="40" y="44" fontSize="12.5" fill="#16211f" pointerEvents="none">
        Click two points to measure between them.
      </text>
    );
  const [ax, ay] = transform.apply(from);
  const [bx, by] = transform.apply([to[0], to[1]]);
  const text = `${length(Math.hypot(to[0] - from[0], to[1] - from[1]))}  (${figure(Math.abs(to[0] - from[0]))} × ${figure(Math.abs(to[1] - from[1]))})`;
  return (
    <g pointerEvents="none">
      <path d={`M${ax} ${ay}L${bx} ${by}`} stroke="#fff" strokeWidth="4" opacity=".8" />
      <path d={`M${ax} ${ay}L${bx} ${by}`} stroke="#a3301e" strokeWidth="1.5" />
      <circle cx={ax} cy={ay} r="3" fill="#a3301e" />
      <circle cx={bx} cy={by} r="3" fill="#a3301e" />
      <text x={(ax + bx) / 2 + 8} y={(ay + by) / 2 - 8} className="figure" fontSize="12" fill="#16211f" stroke="#fff" strokeWidth="4" paintOrder="stroke">
        {text}
      </text>
    </g>
  );
}
