import type { Schemas } from "../../../api/client";

export type Words = Schemas["WordsPart"];
export type Picture = Schemas["PicturePart"];
export type Ground = Schemas["GroundPart"];
export type Part = Words | Picture | Ground;
export type Composed = Schemas["ComposedView"];

/** How near the middle a part is dropped to lie in it, mm. */
export const SNAP_MM = 1.2;

export const newWords = (text: string): Words => ({
  kind: "words", text, font: "head", size_mm: 6, colour: "#16211f", place: "under", gap_mm: 1.5, arc_mm: null, tracking: 0, close: "no", leading: 1.6, align: "centre", role: "both", x_mm: 0, y_mm: 0, turn_deg: 0,
});

export const newGround = (): Ground => ({
  kind: "ground", shape: "circle", margin_mm: 4, radius_mm: 4, colour: "#cfe3dd", second: null, pattern: "none", pattern_mm: 5, role: "both", x_mm: 0, y_mm: 0, turn_deg: 0,
});

/** What a part is called in the list of parts. */
export function nameOf(part: Part): string {
  if (part.kind === "words") return part.text.replaceAll("\n", " / ");
  return part.kind === "picture" ? "Picture" : "Ground";
}

/** A part moved by a drag: it snaps to where it is placed by computation. */
export function movedBy(part: Part, dx: number, dy: number): { x_mm: number; y_mm: number } {
  const snapped = (value: number) => (Math.abs(value) < SNAP_MM ? 0 : Math.round(value * 10) / 10);
  return { x_mm: snapped((part.x_mm ?? 0) + dx), y_mm: snapped((part.y_mm ?? 0) + dy) };
}

/** Whether any text asks for a name of a list. */
export const asksForNames = (parts: Part[]) => parts.some((part) => part.kind === "words" && part.text.includes("{name}"));

/** Names as they were typed or pasted, a line each. */
export const namesOf = (text: string) => text.split(/[\n;]+/).map((name) => name.trim()).filter(Boolean);
