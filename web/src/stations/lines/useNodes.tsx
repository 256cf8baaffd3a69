import { type KeyboardEvent, useEffect, useRef, useState } from "react";

import type { LineRecipe, Lines, NodeEdit } from "../../api/client";
import type { Hand, Point } from "../../bench/Hand";
import type { LineChange } from "./useLineChange";

const STEP_MM = 0.1;
const NEAR_PX = 9;
/** Quick keys are one step of the job. */
const REST_MS = 700;

const apart = (a: Point, b: Point) => Math.hypot(a[0] - b[0], a[1] - b[1]);

/** Nodes of the piece's own line: chosen, moved, added, taken out, made smooth or a corner. */
export function useNodes(lines: Lines | undefined, change: LineChange, longestMm: number) {
  const [active, setActive] = useState(false);
  const [chosen, setChosen] = useState<number[]>([]);
  const drag = useRef<{ from: Point; places: Map<number, Point>; by: Point } | null>(null);
  const rest = useRef<ReturnType<typeof setTimeout>>(undefined);
  const nodes = lines?.node_list ?? [];
  const now: LineRecipe = change.now;
  const place = (index: number) => nodes[index]!.place as Point;
  const share = (at: Point) => at.map((mm) => Math.round((mm / longestMm) * 1e6) / 1e6) as Point;
  useEffect(() => setChosen((before) => before.filter((index) => index < nodes.length)), [nodes.length]);

  const edit = (does: NodeEdit["does"], at: Point, to: Point = at): NodeEdit => {
    const [[x, y], [to_x, to_y]] = [share(at), share(to)];
    return { does, x, y, to_x, to_y };
  };

  /** Moves of the nodes in hand; one that goes on from the last move is one move. */
  const moved = (): NodeEdit[] => {
    if (!drag.current) return now.nodes;
    const made = [...drag.current.places].map(([, at]) => edit("move", at, [at[0] + drag.current!.by[0], at[1] + drag.current!.by[1]]));
    const last = now.nodes.at(-1);
    if (made.length === 1 && last?.does === "move" && apart([last.to_x!, last.to_y!], [made[0]!.x, made[0]!.y]) < 2e-4)
      return [...now.nodes.slice(0, -1), { ...last, to_x: made[0]!.to_x, to_y: made[0]!.to_y }];
    return [...now.nodes, ...made];
  };
  const begin = (from: Point, which: number[]) => {
    drag.current = { from, places: new Map(which.map((index) => [index, place(index)])), by: [0, 0] };
  };
  const settle = () => {
    clearTimeout(rest.current);
    if (drag.current && (drag.current.by[0] || drag.current.by[1])) change.keep(chosen.length > 1 ? "Move nodes" : "Move a node", {}, { nodes: moved() });
    drag.current = null;
  };

  const act = (does: Exclude<NodeEdit["does"], "move">) => {
    settle();
    if (!chosen.length || !nodes.length) return;
    const at = (index: number): Point => {
      if (does !== "add") return place(index);
      const [a, b] = [place(index), place((index + 1) % nodes.length)];
      return [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
    };
    change.keep({ add: "Add a node", delete: "Remove a node", smooth: "Smooth node", corner: "Corner node" }[does], {}, { nodes: [...now.nodes, ...chosen.map((index) => edit(does, at(index)))] });
    if (does === "delete") setChosen([]);
  };

  const step = (by: 1 | -1) => {
    settle();
    if (nodes.length) setChosen((before) => [((before.at(-1) ?? (by > 0 ? -1 : 0)) + by + nodes.length) % nodes.length]);
  };

  const nudge = (dx: number, dy: number) => {
    if (!chosen.length) return;
    if (!drag.current) begin([0, 0], chosen);
    drag.current!.by = [drag.current!.by[0] + dx, drag.current!.by[1] + dy];
    change.attempt({}, { nodes: moved() });
    clearTimeout(rest.current);
    rest.current = setTimeout(settle, REST_MS);
  };

  const onKey = (event: KeyboardEvent): boolean => {
    const mm = event.shiftKey ? 10 * STEP_MM : STEP_MM;
    const keys: Record<string, () => void> = {
      "]": () => step(1), "[": () => step(-1),
      ArrowLeft: () => nudge(-mm, 0), ArrowRight: () => nudge(mm, 0), ArrowUp: () => nudge(0, -mm), ArrowDown: () => nudge(0, mm),
      Delete: () => act("delete"), Backspace: () => act("delete"), a: () => act("add"), s: () => act("smooth"), c: () => act("corner"),
      Enter: settle, Escape: () => { settle(); setActive(false); },
    };
    keys[event.key]?.();
    return event.key in keys;
  };

  const nearest = (at: Point, withinMm: number) => {
    let best = -1, away = withinMm;
    nodes.forEach((node, index) => {
      const d = apart(node.place as Point, at);
      if (d < away) [best, away] = [index, d];
    });
    return best;
  };
  const perPx = useRef(1);

  const hand: Hand | null = active
    ? {
        hint: "Drag a node. Shift adds to the selection, a double click adds one. Keys: [ and ] choose, arrows move, A S C Delete.",
        cursor: "default",
        onKey,
        onDown: (at, shift) => {
          settle();
          const hit = nearest(at, NEAR_PX * perPx.current);
          if (hit < 0) return setChosen([]);
          const next = shift ? [...chosen.filter((index) => index !== hit), hit] : chosen.includes(hit) ? chosen : [hit];
          setChosen(next);
          begin(at, next);
        },
        onMove: (at, held) => {
          if (!held || !drag.current) return;
          drag.current.by = [at[0] - drag.current.from[0], at[1] - drag.current.from[1]];
          change.attempt({}, { nodes: moved() });
        },
        onUp: settle,
        onDouble: (at) => change.keep("Add a node", {}, { nodes: [...now.nodes, edit("add", at)] }),
        draw: (_, mmPerPx) => {
          perPx.current = mmPerPx;
          return nodes.map((node, index) => {
            const [x, y] = node.place as Point;
            const on = chosen.includes(index);
            const r = (on ? 5 : 3.6) * mmPerPx;
            const paint = { fill: on ? "#a55f00" : "#fff", stroke: "#005f69", strokeWidth: 1.6 * mmPerPx };
            return node.corner ? <rect key={index} x={x - r} y={y - r} width={2 * r} height={2 * r} {...paint} /> : <circle key={index} cx={x} cy={y} r={r} {...paint} />;
          });
        },
      }
    : null;

  return { active, setActive, chosen, nodes, act, step, hand };
}

export type Nodes = ReturnType<typeof useNodes>;
