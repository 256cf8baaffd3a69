import { type KeyboardEvent, useEffect, useRef, useState } from "react";

import type { SetPlace, Sheets } from "../../api/client";
import type { Hand, Point } from "../../bench/Hand";
import { boxOf, firstOf, isIn, snapped, placesOf } from "./places";

const STEP_MM = 0.5;
const REST_MS = 600;

interface Given {
  sheets: Sheets;
  number: number;
  gapMm: number;
  /** Show a layout that is not kept. */
  attempt: (placements: SetPlace[]) => void;
  keep: (label: string, placements: SetPlace[]) => void;
}

/** Pieces of a sheet chosen, moved, turned, locked, doubled and taken off, by pointer and by keys. */
export function useLayoutHand({ sheets, number, gapMm, attempt, keep }: Given) {
  const [active, setActive] = useState(false);
  const [chosen, setChosen] = useState<number | null>(null);
  const [guides, setGuides] = useState<[number, number, number, number][]>([]);
  const places = sheets.sheets[number]?.placements ?? [];
  const drag = useRef<{ from: Point; placements: SetPlace[]; index: number; box: [number, number, number, number]; moved: boolean } | null>(null);
  const rest = useRef<ReturnType<typeof setTimeout>>(undefined);
  const pending = useRef<{ label: string; placements: SetPlace[] } | null>(null);
  useEffect(() => setChosen(null), [number]);
  useEffect(() => {
    if (chosen !== null && chosen >= places.length) setChosen(null);
  }, [chosen, places.length]);

  const settle = () => {
    clearTimeout(rest.current);
    if (pending.current) keep(pending.current.label, pending.current.placements);
    pending.current = null;
  };
  const soon = (label: string, placements: SetPlace[]) => {
    pending.current = { label, placements };
    attempt(placements);
    clearTimeout(rest.current);
    rest.current = setTimeout(settle, REST_MS);
  };
  const now = () => pending.current?.placements ?? placesOf(sheets);
  const at = chosen === null ? -1 : firstOf(sheets, number) + chosen;
  const change = (label: string, make: (place: SetPlace) => Partial<SetPlace>) => {
    if (chosen === null) return;
    soon(label, now().map((stand, index) => (index === at ? { ...stand, ...make(stand) } : stand)));
  };
  const nudge = (dx: number, dy: number) => change("Move a piece", (stand) => ({ x_mm: stand.x_mm + dx, y_mm: stand.y_mm + dy }));
  const turn = (by: number) => change("Turn a piece", (stand) => ({ rotation_deg: (((stand.rotation_deg ?? 0) + by) % 360 + 360) % 360 }));
  const lock = () => {
    settle();
    if (chosen === null) return;
    const locked = !places[chosen]!.locked;
    keep(locked ? "Lock a piece" : "Unlock a piece", placesOf(sheets).map((stand, index) => (index === at ? { ...stand, locked } : stand)));
  };
  const takeOff = () => {
    settle();
    if (chosen === null) return;
    keep("Remove a piece", placesOf(sheets).filter((_, index) => index !== at));
    setChosen(null);
  };
  const double = () => {
    settle();
    if (chosen === null) return;
    const stands = placesOf(sheets);
    const box = boxOf(places[chosen]!);
    const copy = { ...stands[at]!, x_mm: stands[at]!.x_mm + box[2] - box[0] + gapMm, locked: false };
    keep("Add a copy", [...stands.slice(0, at + 1), copy, ...stands.slice(at + 1)]);
    setChosen(chosen + 1);
  };
  const step = (by: 1 | -1) => {
    settle();
    if (places.length) setChosen(((chosen ?? (by > 0 ? -1 : 0)) + by + places.length) % places.length);
  };

  const onKey = (event: KeyboardEvent): boolean => {
    const mm = event.shiftKey ? 10 * STEP_MM : STEP_MM;
    const keys: Record<string, () => void> = {
      "]": () => step(1), "[": () => step(-1),
      ArrowLeft: () => nudge(-mm, 0), ArrowRight: () => nudge(mm, 0), ArrowUp: () => nudge(0, -mm), ArrowDown: () => nudge(0, mm),
      r: () => turn(90), R: () => turn(15), k: lock, d: double, Delete: takeOff, Backspace: takeOff, Enter: settle,
      Escape: () => { settle(); setActive(false); },
    };
    keys[event.key]?.();
    return event.key in keys;
  };

  const hand: Hand | null = active
    ? {
        hint: "Drag a piece: it snaps to the gap. Keys: [ and ] choose, arrows move, R turns, K locks, D duplicates, Delete removes.",
        cursor: "default",
        onKey,
        onDown: (point) => {
          settle();
          const inside = places.map((_, index) => index).filter((index) => isIn(boxOf(places[index]!), point));
          const away = (index: number) => {
            const box = boxOf(places[index]!);
            return Math.hypot((box[0] + box[2]) / 2 - point[0], (box[1] + box[3]) / 2 - point[1]);
          };
          const hit = inside.sort((a, b) => away(a) - away(b))[0] ?? null;
          setChosen(hit);
          drag.current = hit === null ? null : { from: point, placements: placesOf(sheets), index: hit, box: boxOf(places[hit]!), moved: false };
        },
        onMove: (point, held) => {
          const hold = drag.current;
          if (!held || !hold) return;
          const raw: Point = [point[0] - hold.from[0], point[1] - hold.from[1]];
          if (!hold.moved && Math.hypot(...raw) < 0.4) return;
          hold.moved = true;
          const box = hold.box.map((side, n) => side + raw[n % 2]!) as [number, number, number, number];
          const snap = snapped(box, places.flatMap((place, index) => (index === hold.index ? [] : [boxOf(place)])), sheets.limits as typeof box, gapMm);
          setGuides(snap.guides);
          const first = firstOf(sheets, number) + hold.index;
          const stands = hold.placements.map((stand, index) =>
            index === first ? { ...stand, x_mm: stand.x_mm + raw[0] + snap.by[0], y_mm: stand.y_mm + raw[1] + snap.by[1] } : stand,
          );
          pending.current = { label: "Move a piece", placements: stands };
          attempt(stands);
        },
        onUp: () => {
          drag.current = null;
          setGuides([]);
          settle();
        },
        draw: (_, mmPerPx) => (
          <>
            {guides.map(([x1, y1, x2, y2], index) => <line key={index} x1={x1} y1={y1} x2={x2} y2={y2} stroke="#a55f00" strokeWidth={mmPerPx} strokeDasharray={`${4 * mmPerPx} ${3 * mmPerPx}`} />)}
            {chosen !== null && places[chosen] && <Frame box={boxOf(places[chosen]!)} width={2 * mmPerPx} />}
          </>
        ),
      }
    : null;

  return { active, setActive, chosen, place: chosen === null ? null : (places[chosen] ?? null), hand, nudge, turn, lock, double, takeOff, step };
}

function Frame({ box, width }: { box: [number, number, number, number]; width: number }) {
  return <rect x={box[0]} y={box[1]} width={box[2] - box[0]} height={box[3] - box[1]} fill="none" stroke="#a55f00" strokeWidth={width} />;
}

export type LayoutHand = ReturnType<typeof useLayoutHand>;
