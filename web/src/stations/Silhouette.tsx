import type { DesignFacts, Lines } from "../api/client";

interface Props {
  lines: Lines;
  facts: DesignFacts;
  longestMm: number;
}

/** The piece in solid black on white, every loose part ringed: stray dots stand out. */
export function Silhouette({ lines, facts, longestMm }: Props) {
  const [left, top, right, bottom] = facts.artwork.outline_box_px as [number, number, number, number];
  const scale = longestMm / Math.max(right - left, bottom - top);
  return (
    <>
      <rect x={-left * scale} y={-top * scale} width={facts.artwork.width_px * scale} height={facts.artwork.height_px * scale} fill="#fff" />
      <path d={lines.outline} fill="#16211f" fillRule="evenodd" />
      {facts.artwork.loose.map((part, index) => (
        <circle
          key={index}
          cx={(part.x_px - left) * scale}
          cy={(part.y_px - top) * scale}
          r={Math.sqrt(part.area_px / Math.PI) * scale + 1.2}
          className="line"
          stroke="#a3301e"
          strokeWidth="2"
        />
      ))}
    </>
  );
}
