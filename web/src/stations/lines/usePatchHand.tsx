import { useEffect, useRef, useState } from "react";

import type { Patch } from "../../api/client";
import type { Hand, Point } from "../../bench/Hand";

export type PatchTool = Pick<Patch, "does" | "shape"> | null;

const LEAST_MM = 0.4;
const BRIDGE_MM = 3;

const HINTS = {
  first: { bridge: "Drag a bridge from one side to the other.", shape: "Drag the shape from corner to corner." },
  second: { bridge: "Click where the bridge ends.", shape: "Click the opposite corner." },
};

/** Draws a box or an ellipse from corner to corner: by dragging, or by a click (or Enter) at either corner. */
export function usePatchHand(tool: PatchTool, longestMm: number, onPatch: (patch: Patch) => void): Hand | null {
  const [first, setShown] = useState<Point | null>(null);
  // Read at once: the key may come up before what it did is drawn, and would add the same shape again.
  const corner = useRef<Point | null>(null);
  const setFirst = (at: Point | null) => {
    corner.current = at;
    setShown(at);
  };
  useEffect(() => {
    corner.current = null;
    setShown(null);
  }, [tool]);
  if (!tool) return null;
  const bridge = tool.shape === "bridge";
  const finish = (from: Point, to: Point) => {
    setFirst(null);
    const share = (mm: number) => Math.round((mm / longestMm) * 1e5) / 1e5;
    onPatch({
      ...tool,
      x: share(Math.min(from[0], to[0])),
      y: share(Math.min(from[1], to[1])),
      width: share(Math.abs(to[0] - from[0])),
      height: share(Math.abs(to[1] - from[1])),
      rising: false,
      thick_mm: BRIDGE_MM,
      ...(bridge && { width: Math.max(1e-5, share(Math.abs(to[0] - from[0]))), height: Math.max(1e-5, share(Math.abs(to[1] - from[1]))), rising: (to[0] - from[0]) * (to[1] - from[1]) < 0 }),
    });
  };
  const wide = (from: Point, to: Point) => bridge ? Math.hypot(to[0] - from[0], to[1] - from[1]) >= 2 * LEAST_MM : Math.min(Math.abs(to[0] - from[0]), Math.abs(to[1] - from[1])) >= LEAST_MM;
  const colour = tool.does === "unite" ? "#007f8c" : "#a3301e";
  return {
    hint: `${first ? HINTS.second[bridge ? "bridge" : "shape"] : HINTS.first[bridge ? "bridge" : "shape"]} It is ${tool.does === "unite" ? "added to" : "cut from"} the piece. Escape closes it.`,
    onDown: (at) => (corner.current && wide(corner.current, at) ? finish(corner.current, at) : setFirst(at)),
    onUp: (at) => corner.current && wide(corner.current, at) && finish(corner.current, at),
    draw: (at, mmPerPx) => {
      if (!first || !at) return null;
      const box = { x: Math.min(first[0], at[0]), y: Math.min(first[1], at[1]), width: Math.abs(at[0] - first[0]), height: Math.abs(at[1] - first[1]) };
      const style = { fill: colour, fillOpacity: 0.18, stroke: colour, strokeWidth: 1.6 * mmPerPx };
      if (bridge) return <path d={`M${first.join(" ")}L${at.join(" ")}`} stroke={colour} strokeOpacity=".35" strokeWidth={BRIDGE_MM} strokeLinecap="square" />;
      return tool.shape === "box" ? (
        <rect {...box} {...style} />
      ) : (
        <ellipse cx={box.x + box.width / 2} cy={box.y + box.height / 2} rx={box.width / 2} ry={box.height / 2} {...style} />
      );
    },
  };
}
