import type { Artwork, Mend } from "../../api/client";
import { withOut } from "./places";

export type LoosePart = Artwork["loose"][number];

const named = (list: readonly (readonly number[])[], part: LoosePart) => list.some(([x, y]) => x === part.place[0] && y === part.place[1]);

/** Whether a mend takes a loose part away. */
export const isGone = (part: LoosePart, mend: Mend) =>
  named(mend.specks_gone, part) || (part.area_px < mend.specks_px2 && !named(mend.specks_kept, part));

/** The mend with one part kept that went, or gone that stayed. */
export function toggled(part: LoosePart, mend: Mend): Partial<Mend> {
  const place = part.place as [number, number];
  const rest = { specks_gone: withOut(mend.specks_gone, place), specks_kept: withOut(mend.specks_kept, place) };
  if (!isGone(part, mend)) return { ...rest, specks_gone: [...rest.specks_gone, place] };
  return part.area_px < mend.specks_px2 ? { ...rest, specks_kept: [...rest.specks_kept, place] } : rest;
}

export const speckLabel = (part: LoosePart, mend: Mend) => (isGone(part, mend) ? "Keep a loose part" : "Remove a loose part");
