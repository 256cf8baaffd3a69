import type { Crop } from "../../api/client";

export interface Rect {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** The largest part of a picture (px) with the sides of a box, about its middle. */
export function largest([width, height]: [number, number], aspect: number): Rect {
  const across = Math.min(width, height * aspect);
  const along = across / aspect;
  return { left: (width - across) / 2, top: (height - along) / 2, width: across, height: along };
}

export const asCrop = (rect: Rect, stretch = 1): Crop => ({
  left_px: Math.max(0, Math.round(rect.left)),
  top_px: Math.max(0, Math.round(rect.top)),
  width_px: Math.max(1, Math.round(rect.width)),
  height_px: Math.max(1, Math.round(rect.height)),
  stretch,
});

/** Cut a picture to a box (mm) exactly, as much of it as fits; what rounding to pixels leaves is stretched. */
export function cropToBox(picture: [number, number], [width, height]: [number, number]): Crop {
  const crop = asCrop(largest(picture, width / height));
  return { ...crop, stretch: height / width / (crop.height_px / crop.width_px) };
}

/** The whole picture pressed into a box: how much taller it is drawn. */
export const stretchInto = ([width, height]: [number, number], box: [number, number]): Crop => ({
  ...asCrop({ left: 0, top: 0, width, height }),
  stretch: Math.min(4, Math.max(0.25, box[1] / box[0] / (height / width))),
});

/** "8 % taller", "12 % wider", or null when it is true to within half a per cent. */
export function stretchWords(stretch: number): string | null {
  if (Math.abs(stretch - 1) < 0.005) return null;
  return stretch > 1 ? `${Math.round((stretch - 1) * 100)} % taller` : `${Math.round((1 / stretch - 1) * 100)} % wider`;
}

/** A rectangle moved or drawn by one of its corners, inside the picture; with an aspect it keeps it. */
export function dragged(from: Rect, grip: "move" | "nw" | "ne" | "sw" | "se", dx: number, dy: number, [width, height]: [number, number], aspect: number | null): Rect {
  const held = (value: number, least: number, most: number) => Math.min(Math.max(value, least), Math.max(least, most));
  if (grip === "move")
    return { ...from, left: held(from.left + dx, 0, width - from.width), top: held(from.top + dy, 0, height - from.height) };
  const west = grip.endsWith("w");
  const north = grip.startsWith("n");
  const roomX = west ? from.left + from.width : width - from.left;
  const roomY = north ? from.top + from.height : height - from.top;
  let across = held(from.width + (west ? -dx : dx), 8, roomX);
  let along = held(from.height + (north ? -dy : dy), 8, roomY);
  if (aspect) {
    across = Math.min(Math.max(across, along * aspect), roomX, roomY * aspect);
    along = across / aspect;
  }
  return {
    left: west ? from.left + from.width - across : from.left,
    top: north ? from.top + from.height - along : from.top,
    width: across,
    height: along,
  };
}
