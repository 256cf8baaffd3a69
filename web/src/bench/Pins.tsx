import type { ZoomTransform } from "d3-zoom";

import type { Finding } from "../api/client";

const COLOUR = { good: "#23734a", look: "#8f5300", stop: "#a3301e" };

/** Numbered pins where findings are; numbers as in the readings, which leave the good ones out. */
export function Pins({ findings, transform }: { findings: Finding[]; transform: ZoomTransform }) {
  return (
    <g pointerEvents="none">
      {findings.map((finding, index) => {
        if (!finding.where_mm) return null;
        const [x, y] = transform.apply(finding.where_mm as [number, number]);
        return (
          <g key={`${finding.code}-${index}`} transform={`translate(${x} ${y})`}>
            <circle r="2.5" fill={COLOUR[finding.severity]} />
            <path d="M0 0V-16" stroke={COLOUR[finding.severity]} strokeWidth="1.5" />
            <circle cy="-24" r="10" fill={COLOUR[finding.severity]} stroke="#fff" strokeWidth="1.5" />
            <text y="-20" textAnchor="middle" fontSize="11" fontWeight="600" fill="#fff" className="figure">{index + 1}</text>
          </g>
        );
      })}
    </g>
  );
}
