import type { CutType } from "../../job/cutType";

const KISS = "var(--color-kiss)";
const THROUGH = "var(--color-through)";
const EDGE = "M13 5.5h20q6 0 6 6v13q0 6 -6 6h-20q-6 0 -6 -6v-13q0 -6 6 -6z";
const EDGE_AND_TAB = "M13 5.5h20q6 0 6 6v13q0 6 -6 6h-5v3.5h-10v-3.5h-5q-6 0 -6 -6v-13q0 -6 6 -6z";

/** A sticker on its backing, with the lines of a cut type. */
export function CutTypePicture({ type }: { type: CutType }) {
  const whole = type === "sheet" || type === "print";
  return (
    <svg width="46" height="36" viewBox="0 0 46 36" aria-hidden className="shrink-0">
      <rect x={whole ? 1 : 0} y={whole ? 1 : 0} width="44" height="34" rx="2" fill="#fff" stroke={whole ? "#cfd9d4" : "none"} />
      {type === "through" ? (
        <rect x="10" y="8" width="26" height="20" rx="9" fill="#f3dfae" stroke={THROUGH} strokeWidth="1.6" strokeDasharray="4 1.6" />
      ) : (
        <rect x="12" y="10" width="22" height="16" rx="7" fill="#f3dfae" stroke={type === "print" ? "none" : KISS} strokeWidth="1.6" />
      )}
      {(type === "edge" || type === "tab") && <path d={type === "tab" ? EDGE_AND_TAB : EDGE} fill="none" stroke={THROUGH} strokeWidth="1.4" strokeDasharray="4 1.6" />}
      {type === "tear_out" && <rect x="6" y="4.5" width="34" height="27" fill="none" stroke="#7a4b12" strokeWidth="1.4" strokeDasharray="6 1.8" />}
    </svg>
  );
}
