import type { ZoomTransform } from "d3-zoom";
import { useId } from "react";

import { useUnits } from "../ui/units";
import type { Point } from "./Hand";

const RADIUS = 84;
const POWER = 4;

interface Props {
  at: Point;
  content: string;
  transform: ZoomTransform;
  /** Nodes of a line, mm. */
  nodes?: Point[];
}

/** Four times larger under the pointer, with the nodes of the line and how far the nearest one is. */
export function Loupe({ at, content, transform, nodes = [] }: Props) {
  const clip = useId();
  const { length } = useUnits();
  const [x, y] = at;
  const [px, py] = transform.invert(at);
  const reach = RADIUS / POWER / transform.k;
  const away = (node: Point) => Math.hypot(node[0] - px, node[1] - py);
  const inside = nodes.filter((node) => away(node) < reach).sort((a, b) => away(a) - away(b));
  const onGlass = (node: Point): Point => [x + (node[0] - px) * transform.k * POWER, y + (node[1] - py) * transform.k * POWER];
  const between = inside.length > 1 ? Math.hypot(inside[0]![0] - inside[1]![0], inside[0]![1] - inside[1]![1]) : null;
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
        {inside.map((node) => {
          const [cx, cy] = onGlass(node);
          return <circle key={node.join()} cx={cx} cy={cy} r="4" fill="#fff" stroke="#005f69" strokeWidth="1.6" />;
        })}
        {inside[0] && <path d={`M${x} ${y}L${onGlass(inside[0]).join(" ")}`} stroke="#a55f00" strokeWidth="1.2" strokeDasharray="3 2" />}
        <path d={`M${x - 8} ${y}h16M${x} ${y - 8}v16`} stroke="#16211f" strokeWidth=".8" />
      </g>
      <circle cx={x} cy={y} r={RADIUS} fill="none" stroke="#16211f" strokeWidth="1.5" />
      {inside[0] && (
        <text x={x} y={y + RADIUS + 15} textAnchor="middle" className="figure" fontSize="11.5" fill="#16211f" stroke="#fff" strokeWidth="4" paintOrder="stroke">
          {`node at ${length(away(inside[0]))}`}{between !== null && `, next one ${length(between)} from it`}
        </text>
      )}
    </g>
  );
}
