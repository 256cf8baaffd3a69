import type { Hand, Point } from "../../bench/Hand";

export type Placing = "tab" | "hang" | null;

/** Puts a tab or a hanging hole where the line comes nearest the pointer: dragged, or by Enter. */
export function usePlaceHand(placing: Placing, longestMm: number, onTry: (near: Point) => void, onKeep: (near: Point) => void): Hand | null {
  if (!placing) return null;
  const share = (at: Point) => at.map((mm) => Math.round((mm / longestMm) * 1e4) / 1e4) as Point;
  return {
    hint: `Drag the ${placing === "tab" ? "tab" : "hole"} round the line, or move it with the arrow keys and press Enter. Escape closes it.`,
    cursor: "grab",
    onDown: (at) => onTry(share(at)),
    onMove: (at, held) => held && onTry(share(at)),
    onUp: (at) => onKeep(share(at)),
  };
}
