import { PROCESSES } from "../api/constants";
import { dashOf } from "./drawing";
import { memo, type ReactNode, useCallback, useMemo, useState } from "react";

export interface Layer {
  id: string;
  label: string;
  swatch?: ReactNode;
}

const stroke = (colour: string, dash?: string) => (
  <svg width="26" height="8" aria-hidden>
    <path d="M0 4H26" stroke={colour} strokeWidth="2.2" strokeDasharray={dash} />
  </svg>
);

export const ART: Layer = { id: "art", label: "Art" };

/** A layer a process, in the order they are cut, of those that are drawn; kiss and through are always in the key. */
export const processLayers = (drawn: Set<string>): Layer[] =>
  PROCESSES.filter(({ name, closed }) => closed || drawn.has(name)).map(({ name, title, colour, dash_mm }) => ({
    id: name,
    label: title,
    swatch: stroke(colour, name === "perforate" ? "7 2" : dashOf(dash_mm)),
  }));
export const MARKS: Layer = { id: "marks", label: "Marks" };
export const USABLE: Layer = { id: "usable", label: "Usable area", swatch: stroke("#8fa39a", "2 3") };
export const FILM: Layer = { id: "film", label: "Film", swatch: stroke("#7a6bb0", "6 3") };
export const CUTS: Layer = { id: "cuts", label: "Sheet as cut" };
export const ERROR: Layer = { id: "error", label: "Cut error" };
export const SLIP: Layer = { id: "slip", label: "Slip" };

const NONE: string[] = [];

/** Which layers are shown; what somebody chose is remembered from visit to visit. */
export function useLayers(layers: Layer[], hiddenAtFirst: string[] = NONE) {
  const [chosen, setChosen] = useState<Record<string, boolean>>(
    () => JSON.parse(localStorage.getItem("layers") ?? "{}") as Record<string, boolean>,
  );
  const shown = useMemo(
    () => new Set(layers.map((layer) => layer.id).filter((id) => chosen[id] ?? !hiddenAtFirst.includes(id))),
    [layers, chosen, hiddenAtFirst],
  );
  const toggle = useCallback(
    (id: string) =>
      setChosen((before) => {
        const next = { ...before, [id]: !shown.has(id) };
        localStorage.setItem("layers", JSON.stringify(next));
        return next;
      }),
    [shown],
  );
  return { shown, toggle };
}

/** The key along the bottom: shows and hides art and each process. */
export const LineKey = memo(function LineKey({ layers, shown, onToggle }: { layers: Layer[]; shown: Set<string>; onToggle: (id: string) => void }) {
  if (!layers.length) return null;
  return (
    <div role="group" aria-label="Show and hide" className="flex gap-0.5 rounded-md border border-rule bg-paper/95 p-1 text-[12px]">
      {layers.map((layer) => (
        <button
          key={layer.id}
          type="button"
          aria-pressed={shown.has(layer.id)}
          onClick={() => onToggle(layer.id)}
          className="flex items-center gap-1.5 rounded px-2 py-0.5 hover:bg-act-pale aria-[pressed=false]:text-quiet aria-[pressed=false]:line-through aria-[pressed=false]:opacity-70"
        >
          {layer.swatch}
          {layer.label}
        </button>
      ))}
    </div>
  );
});
