import type { Painted, Sheets } from "../api/client";

/** What each sticker of a sheet says, where it stands. */
export function LabelLayer({ sheets, number, labels }: { sheets: Sheets; number: number; labels: Painted[][] | undefined }) {
  if (!labels) return null;
  return (
    <g pointerEvents="none">
      {(sheets.sheets[number]?.placements ?? []).map((place, index) => (
        <g key={index} transform={`translate(${place.x_mm + place.width_mm / 2} ${place.y_mm + place.height_mm / 2}) rotate(${place.rotation_deg}) translate(${-place.width_mm / 2} ${-place.height_mm / 2})`}>
          {labels[index]?.map((each, n) => <path key={n} d={each.path} fill={each.colour} />)}
        </g>
      ))}
    </g>
  );
}
