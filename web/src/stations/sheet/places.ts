import type { Placement, SetPlace, Sheets } from "../../api/client";

type Box = [number, number, number, number];

/** Every place of a plan as one set by hand, sheet after sheet. */
export const placesOf = (sheets: Sheets): SetPlace[] =>
  sheets.sheets.flatMap((sheet, number) =>
    sheet.placements.map((place) => ({
      design: place.design,
      sheet: number,
      x_mm: place.x_mm + place.width_mm / 2,
      y_mm: place.y_mm + place.height_mm / 2,
      rotation_deg: place.rotation_deg,
      locked: place.locked,
    })),
  );

/** Where the places of a sheet begin among all of them. */
export const firstOf = (sheets: Sheets, number: number) => sheets.sheets.slice(0, number).reduce((sum, sheet) => sum + sheet.placements.length, 0);

export const isIn = (box: Box, [x, y]: [number, number]) => x >= box[0] && x <= box[2] && y >= box[1] && y <= box[3];

const SNAP_MM = 1.6;

/** The move that lets a box keep the gap to its neighbours, line up with them, or lie at the edge of the area,
 *  when one of these is near; and the lines to show for it. */
export function snapped(box: Box, others: Box[], limits: Box, gapMm: number): { by: [number, number]; guides: Box[] } {
  const guides: Box[] = [];
  const by = ([0, 1] as const).map((axis) => {
    const [low, high, across] = [box[axis], box[axis + 2], 1 - axis] as [number, number, number];
    let best = SNAP_MM;
    let found = 0;
    let line: number | null = null;
    const offer = (side: number, to: number) => {
      if (Math.abs(to - side) < Math.abs(best) - 1e-9) [best, found, line] = [Math.abs(to - side), to - side, to];
    };
    offer(low, limits[axis]!);
    offer(high, limits[axis + 2]!);
    for (const other of others) {
      const beside = other[across]! < box[across + 2]! + gapMm && other[across + 2]! > box[across]! - gapMm;
      if (beside) {
        offer(low, other[axis + 2]! + gapMm);
        offer(high, other[axis]! - gapMm);
      }
      offer(low, other[axis]!);
      offer(high, other[axis + 2]!);
      offer((low + high) / 2, (other[axis]! + other[axis + 2]!) / 2);
    }
    if (line !== null) guides.push(axis === 0 ? [line, limits[1], line, limits[3]] : [limits[0], line, limits[2], line]);
    return found;
  }) as [number, number];
  return { by, guides };
}

export const boxOf = (place: Placement) => place.box as Box;
