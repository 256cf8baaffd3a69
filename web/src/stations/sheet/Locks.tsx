import type { Sheets } from "../../api/client";
import { boxOf } from "./places";

/** A small padlock on each piece that keeps its place. */
export function Locks({ sheets, number }: { sheets: Sheets; number: number }) {
  return (
    <g pointerEvents="none" aria-hidden>
      {(sheets.sheets[number]?.placements ?? []).map((place, index) => {
        if (!place.locked) return null;
        const [left, top, right] = boxOf(place);
        return (
          <g key={index} transform={`translate(${(left + right) / 2 - 3} ${top + 1})`}>
            <rect width="6" height="6.4" rx="1.4" fill="#0f5c57" />
            <path d="M1.9 3V2.2a1.1 1.1 0 0 1 2.2 0V3" fill="none" stroke="#fff" strokeWidth=".6" />
            <rect x="1.4" y="2.9" width="3.2" height="2.4" rx=".4" fill="#fff" />
          </g>
        );
      })}
    </g>
  );
}
