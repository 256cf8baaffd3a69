import { useRef, useState } from "react";

import type { Design, DesignFacts } from "../../api/client";
import type { Hand, Point } from "../../bench/Hand";
import { dragged, type Rect } from "./crop";
import { pixelAt, placesOf, withOut } from "./places";
import { speckLabel, toggled } from "./specks";
import type { Tool } from "./tools";
import { useMend } from "./useMend";

const round = (value: number) => Math.round(value * 10) / 10;

interface Wants {
  design: Design;
  facts: DesignFacts;
  tool: Tool;
  brushMm: number;
}

/** Pointing at colours and specks, and the brushes: what the pointer does with this station's tools. */
export function useArtHand({ design, facts, tool, brushMm }: Wants): Hand | null {
  const { mend, keep } = useMend(design);
  const places = placesOf(facts, design.longest_mm ?? 60);
  const [drawn, setDrawn] = useState<Point[]>([]);
  const path = useRef<Point[]>([]);

  if (tool.kind === "pick")
    return {
      hint: "Click a colour to remove. Arrow keys and Enter do the same.",
      onUp: (at) => {
        const pixel = pixelAt(facts, places.toPx(at));
        if (pixel) void keep("Remove a colour", { picked: [...withOut(mend.picked, pixel), pixel] });
      },
    };
  if (tool.kind === "specks")
    return {
      hint: "Click a loose part to remove or keep it.",
      onUp: (at) => {
        const [x, y] = places.toPx(at);
        const near = facts.artwork.loose
          .map((part) => ({ part, away: Math.hypot(part.x_px - x, part.y_px - y) - Math.sqrt(part.area_px / Math.PI) }))
          .sort((a, b) => a.away - b.away)[0];
        if (near && near.away * places.mmPerPx < 2.5) void keep(speckLabel(near.part, mend), toggled(near.part, mend));
      },
    };
  if (tool.kind === "erase" || tool.kind === "restore") {
    const { kind } = tool;
    const colour = kind === "erase" ? "#eef2f0" : "#0f5c57";
    return {
      hint: kind === "erase" ? "Paint over what to remove." : "Paint over what to restore.",
      cursor: "none",
      onDown: (at) => {
        path.current = [at];
        setDrawn([at]);
      },
      onMove: (at, held) => {
        const last = path.current.at(-1);
        if (!held || !last || Math.hypot(at[0] - last[0], at[1] - last[1]) < brushMm / 8) return;
        path.current = [...path.current, at];
        setDrawn(path.current);
      },
      onUp: () => {
        const points = path.current.map(places.toPx).map(([x, y]): Point => [round(x), round(y)]).slice(0, 4000);
        path.current = [];
        const radius_px = Math.max(0.5, round(brushMm / 2 / places.mmPerPx));
        void keep(kind === "erase" ? "Erase" : "Restore", { strokes: [...mend.strokes, { kind, radius_px, points }] }).then(() => setDrawn([]));
      },
      draw: (at, mmPerPx) => (
        <>
          {drawn.length > 0 && (
            <path
              d={`M${drawn.map((point) => point.join(" ")).join("L")}${drawn.length === 1 ? "h.001" : ""}`}
              fill="none"
              stroke={colour}
              strokeOpacity={kind === "erase" ? 0.9 : 0.5}
              strokeWidth={brushMm}
              strokeLinecap="round"
              strokeLinejoin="round"
            />
          )}
          {at && (
            <>
              <circle cx={at[0]} cy={at[1]} r={brushMm / 2} fill="none" stroke="#fff" strokeWidth={3 * mmPerPx} />
              <circle cx={at[0]} cy={at[1]} r={brushMm / 2} fill="none" stroke="#16211f" strokeWidth={1.2 * mmPerPx} />
            </>
          )}
        </>
      ),
    };
  }
  return null;
}

type Grip = "move" | "nw" | "ne" | "sw" | "se";

/** Drags the crop's frame or a corner of it; the frame is in px of the picture as it came, the table in mm. */
export function useCropHand(rect: Rect | null, picture: [number, number], mmPerPx: number, aspect: number | null, onRect: (rect: Rect) => void): Hand | null {
  const from = useRef<{ at: Point; rect: Rect; grip: Grip } | null>(null);
  if (!rect) return null;
  const corners: [Grip, number, number][] = [
    ["nw", rect.left, rect.top],
    ["ne", rect.left + rect.width, rect.top],
    ["sw", rect.left, rect.top + rect.height],
    ["se", rect.left + rect.width, rect.top + rect.height],
  ];
  return {
    hint: "Drag a corner, or the frame itself.",
    cursor: "move",
    onDown: (at) => {
      const near = corners.map(([grip, x, y]) => ({ grip, away: Math.hypot(x - at[0] / mmPerPx, y - at[1] / mmPerPx) })).sort((a, b) => a.away - b.away)[0]!;
      const grip = near.away < Math.max(...picture) / 20 ? near.grip : "move";
      from.current = { at, rect, grip };
    },
    onMove: (at, held) => {
      if (!held || !from.current) return;
      const { at: start, rect: before, grip } = from.current;
      onRect(dragged(before, grip, (at[0] - start[0]) / mmPerPx, (at[1] - start[1]) / mmPerPx, picture, aspect));
    },
    onUp: () => (from.current = null),
    draw: (_, tablePerPx) => (
      <g transform={`scale(${mmPerPx})`}>
        <path
          d={`M0 0H${picture[0]}V${picture[1]}H0Z M${rect.left} ${rect.top}v${rect.height}h${rect.width}v${-rect.height}Z`}
          fill="#16211f"
          fillOpacity=".45"
          fillRule="evenodd"
        />
        <rect x={rect.left} y={rect.top} width={rect.width} height={rect.height} fill="none" stroke="#fff" strokeWidth={(3 * tablePerPx) / mmPerPx} />
        <rect x={rect.left} y={rect.top} width={rect.width} height={rect.height} fill="none" stroke="#0f5c57" strokeWidth={(1.5 * tablePerPx) / mmPerPx} />
        {corners.map(([grip, x, y]) => (
          <circle key={grip} cx={x} cy={y} r={(6 * tablePerPx) / mmPerPx} fill="#fff" stroke="#0f5c57" strokeWidth={(2 * tablePerPx) / mmPerPx} />
        ))}
      </g>
    ),
  };
}
