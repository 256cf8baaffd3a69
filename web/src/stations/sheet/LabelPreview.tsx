import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";

import type { Design, DesignFacts, Labels, Painted } from "../../api/client";
import { ArtImage } from "../../bench/drawing";

interface Place {
  x: number;
  y: number;
  width: number;
  height: number;
}

interface Props {
  design: Design;
  facts: DesignFacts;
  labels: Labels;
  /** What the worst row says. */
  painted: Painted[];
  chosen: number;
  onChoose: (box: number) => void;
  onKeep: (place: Place) => void;
}

const round = (share: number) => Math.round(share * 1e4) / 1e4;

/** The piece with its boxes: dragged to their places, pulled larger at the corner, or moved with the arrows. */
export function LabelPreview({ design, facts, labels, painted, chosen, onChoose, onKeep }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const longest = design.longest_mm ?? 60;
  const boxes: Place[] = [...(labels.texts ?? []), ...(labels.codes ?? [])];
  const [moved, setMoved] = useState<Place | null>(null);
  const drag = useRef<{ from: [number, number]; box: Place; size: boolean } | null>(null);
  const shareAt = (event: PointerEvent): [number, number] => {
    const box = svg.current!.getBoundingClientRect();
    const scale = facts.width_mm / box.width / longest;
    return [(event.clientX - box.left) * scale, (event.clientY - box.top) * scale];
  };
  const begin = (index: number, size: boolean) => (event: PointerEvent) => {
    event.stopPropagation();
    svg.current!.setPointerCapture(event.pointerId);
    onChoose(index);
    drag.current = { from: shareAt(event), box: boxes[index]!, size };
  };
  const move = (event: PointerEvent) => {
    const hold = drag.current;
    if (!hold) return;
    const [x, y] = shareAt(event);
    const [dx, dy] = [x - hold.from[0], y - hold.from[1]];
    const place = hold.size
      ? { width: Math.max(0.03, round(hold.box.width + dx)), height: Math.max(0.03, round(hold.box.height + dy)) }
      : { x: round(hold.box.x + dx), y: round(hold.box.y + dy) };
    setMoved({ x: hold.box.x, y: hold.box.y, width: hold.box.width, height: hold.box.height, ...place });
  };
  const end = () => {
    if (drag.current && moved) onKeep(moved);
    drag.current = null;
    setMoved(null);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const by: Record<string, [number, number]> = { ArrowLeft: [-0.01, 0], ArrowRight: [0.01, 0], ArrowUp: [0, -0.01], ArrowDown: [0, 0.01] };
    const step = by[event.key];
    const now = boxes[chosen];
    if (!step || !now) return;
    event.preventDefault();
    const { x, y, width, height } = now;
    onKeep(event.shiftKey ? { x, y, width: Math.max(0.03, round(width + step[0])), height: Math.max(0.03, round(height + step[1])) } : { x: round(x + step[0]), y: round(y + step[1]), width, height });
  };
  const line = facts.width_mm / 260;
  return (
    <svg
      ref={svg}
      tabIndex={0}
      role="application"
      aria-label="Boxes of the label: arrows move the chosen one, Shift with arrows makes it larger or smaller"
      viewBox={`0 0 ${facts.width_mm} ${facts.height_mm}`}
      className="mx-3.5 block max-h-[260px] w-[calc(100%-28px)] touch-none rounded border border-rule bg-white"
      preserveAspectRatio="xMinYMin meet"
      onPointerMove={move}
      onPointerUp={end}
      onKeyDown={onKeyDown}
    >
      <ArtImage facts={facts} longestMm={longest} />
      {painted.map((each, index) => <path key={index} d={each.path} fill={each.colour} />)}
      {boxes.map((box, index) => {
        const place = index === chosen && moved ? moved : box;
        const [x, y, width, height] = [place.x, place.y, place.width, place.height].map((share) => share * longest) as [number, number, number, number];
        const on = index === chosen;
        return (
          <g key={index}>
            <rect x={x} y={y} width={width} height={height} fill="#a55f00" fillOpacity={on ? 0.1 : 0.02} stroke={on ? "#a55f00" : "#586762"} strokeWidth={line * (on ? 2 : 1)} strokeDasharray={on ? undefined : `${4 * line} ${3 * line}`} style={{ cursor: "move" }} onPointerDown={begin(index, false)} />
            {on && <rect x={x + width - 5 * line} y={y + height - 5 * line} width={10 * line} height={10 * line} fill="#a55f00" style={{ cursor: "nwse-resize" }} onPointerDown={begin(index, true)} />}
          </g>
        );
      })}
    </svg>
  );
}
