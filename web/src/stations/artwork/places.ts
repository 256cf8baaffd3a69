import type { DesignFacts, Mend } from "../../api/client";
import type { Point } from "../../bench/Hand";

/** From px of the picture as it came to mm of its design, and back. */
export function placesOf(facts: DesignFacts, longestMm: number) {
  const { outline_box_px, origin_px, scale } = facts.artwork;
  const [left, top, right, bottom] = outline_box_px as [number, number, number, number];
  const mm = longestMm / Math.max(right - left, bottom - top);
  return {
    mmPerPx: mm * scale[0],
    toMm: ([x, y]: Point): Point => [((x - origin_px[0]) * scale[0] - left) * mm, ((y - origin_px[1]) * scale[1] - top) * mm],
    toPx: ([x, y]: Point): Point => [(x / mm + left) / scale[0] + origin_px[0], (y / mm + top) / scale[1] + origin_px[1]],
  };
}

/** A whole pixel of the picture under a place in px, or null beside it. */
export function pixelAt(facts: DesignFacts, [x, y]: Point): [number, number] | null {
  const [width, height] = facts.artwork.came_px;
  return x >= 0 && y >= 0 && x < width && y < height ? [Math.floor(x), Math.floor(y)] : null;
}

export const isMended = (mend: Mend | undefined) =>
  Boolean(
    mend &&
      (mend.background !== "as_is" || mend.frame || mend.backing || mend.crop || mend.specks_px2 || mend.picked.length || mend.strokes.length || mend.specks_gone.length || mend.enlarge > 1 || mend.subject || mend.recolour),
  );

export const withOut = <T,>(list: readonly T[], one: T) => list.filter((each) => JSON.stringify(each) !== JSON.stringify(one));
