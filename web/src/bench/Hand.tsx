import type { KeyboardEvent, ReactNode } from "react";

export type Point = [number, number];

/** What the pointer does on the light table in place of moving it; places are in mm of what is drawn. */
export interface Hand {
  /** Said on the table while it is in the hand. */
  hint: string;
  cursor?: string;
  onDown?: (at: Point, shift: boolean) => void;
  onDouble?: (at: Point) => void;
  /** Keys before the table sees them; true when one was meant for the tool. */
  onKey?: (event: KeyboardEvent) => boolean;
  onMove?: (at: Point, held: boolean) => void;
  onUp?: (at: Point) => void;
  /** What follows the pointer, in mm; `mmPerPx` keeps it a steady width on the screen. */
  draw?: (at: Point | null, mmPerPx: number) => ReactNode;
}

/** The keyboard's place on the table: arrows move it, Enter presses. */
export function KeyboardPlace({ at }: { at: Point }) {
  return (
    <g transform={`translate(${at[0]} ${at[1]})`} pointerEvents="none">
      <path d="M-14 0H14M0-14V14" stroke="#fff" strokeWidth="4" />
      <path d="M-14 0H14M0-14V14" stroke="#0f5c57" strokeWidth="1.6" />
    </g>
  );
}
