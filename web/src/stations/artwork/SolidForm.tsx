import type { DesignFacts, Lines, Mend } from "../../api/client";
import { placesOf } from "./places";
import { isGone } from "./specks";

/** Beside the largest loose part, less than this of it may be a stray dot; whole drawings are not ringed. */
const SMALL = 0.2;

interface Props {
  lines: Lines;
  facts: DesignFacts;
  mend: Mend;
  longestMm: number;
}

/** The piece in solid black on white, every loose part ringed: stray dots stand out; those that go are crossed. */
export function SolidForm({ lines, facts, mend, longestMm }: Props) {
  const { toMm, mmPerPx } = placesOf(facts, longestMm);
  const [left, top] = facts.artwork.outline_box_px as [number, number, number, number];
  const scale = mmPerPx / facts.artwork.scale[0];
  const largest = Math.max(0, ...facts.artwork.loose.map((part) => part.area_px));
  return (
    <>
      <rect x={-left * scale} y={-top * scale} width={facts.artwork.width_px * scale} height={facts.artwork.height_px * scale} fill="#fff" />
      <path d={lines.outline} fill="#16211f" fillRule="evenodd" />
      {facts.artwork.loose.filter((part) => part.area_px < largest * SMALL || isGone(part, mend)).map((part) => {
        const [x, y] = toMm([part.x_px, part.y_px]);
        const radius = Math.sqrt(part.area_px / Math.PI) * mmPerPx + 0.9;
        const gone = isGone(part, mend);
        return (
          <g key={part.place.join()}>
            <circle cx={x} cy={y} r={radius} className="line" stroke={gone ? "#52615c" : "#a3301e"} strokeWidth="2" strokeDasharray={gone ? "2 2" : undefined} />
            {gone && <path d={`M${x - radius / 2} ${y - radius / 2}l${radius} ${radius}m0 ${-radius}l${-radius} ${radius}`} className="line" stroke="#52615c" strokeWidth="1.4" />}
          </g>
        );
      })}
    </>
  );
}
