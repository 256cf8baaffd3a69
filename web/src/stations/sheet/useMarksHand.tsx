import { type KeyboardEvent, useRef, useState } from "react";

import type { Sheets } from "../../api/client";
import type { Hand, Point } from "../../bench/Hand";

const NEAR_MM = 9;
const REST_MS = 600;

/** The marks in hand: one is chosen, dragged or moved with the arrows. */
export function useMarksHand(sheets: Sheets, attempt: (at: Point[]) => void, keep: (at: Point[]) => void) {
  const [active, setActive] = useState(false);
  const [chosen, setChosen] = useState(0);
  const places = sheets.marks.map((mark): Point => [mark.x_mm, mark.y_mm]);
  const drag = useRef<{ from: Point; places: Point[]; index: number } | null>(null);
  const pending = useRef<Point[] | null>(null);
  const rest = useRef<ReturnType<typeof setTimeout>>(undefined);
  const settle = () => {
    clearTimeout(rest.current);
    if (pending.current) keep(pending.current);
    pending.current = null;
  };
  const put = (index: number, to: Point, from: Point[]) => {
    pending.current = from.map((place, n) => (n === index ? (to.map((mm) => Math.round(mm * 10) / 10) as Point) : place));
    attempt(pending.current);
  };
  const nudge = (dx: number, dy: number) => {
    const now = pending.current ?? places;
    const at = now[chosen];
    if (!at) return;
    put(chosen, [at[0] + dx, at[1] + dy], now);
    clearTimeout(rest.current);
    rest.current = setTimeout(settle, REST_MS);
  };
  const onKey = (event: KeyboardEvent): boolean => {
    const mm = event.shiftKey ? 5 : 0.5;
    const keys: Record<string, () => void> = {
      "]": () => setChosen((chosen + 1) % places.length), "[": () => setChosen((chosen + places.length - 1) % places.length),
      ArrowLeft: () => nudge(-mm, 0), ArrowRight: () => nudge(mm, 0), ArrowUp: () => nudge(0, -mm), ArrowDown: () => nudge(0, mm),
      Escape: () => { settle(); setActive(false); },
    };
    keys[event.key]?.();
    return event.key in keys;
  };
  const hand: Hand | null = active
    ? {
        hint: "Drag a mark, or choose it with [ and ] and move it with the arrows. Escape closes it.",
        cursor: "default",
        onKey,
        onDown: (at) => {
          settle();
          const index = places.findIndex((place) => Math.hypot(place[0] - at[0], place[1] - at[1]) < NEAR_MM);
          if (index < 0) return;
          setChosen(index);
          drag.current = { from: at, places, index };
        },
        onMove: (at, held) => {
          const hold = drag.current;
          if (held && hold) put(hold.index, [hold.places[hold.index]![0] + at[0] - hold.from[0], hold.places[hold.index]![1] + at[1] - hold.from[1]], hold.places);
        },
        onUp: () => {
          drag.current = null;
          settle();
        },
        draw: (_, mmPerPx) => places[chosen] && <circle cx={places[chosen][0]} cy={places[chosen][1]} r={6} fill="none" stroke="#a55f00" strokeWidth={2 * mmPerPx} />,
      }
    : null;
  return { active, setActive, hand };
}
