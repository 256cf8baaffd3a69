import { useId } from "react";

import { PATTERNS, SHAPES } from "../api/constants";
import { useTyped } from "../ui/useTyped";
import { useUnits } from "../ui/units";

export interface Field {
  /** Its place in the record; marks are one level down. */
  path: string;
  label: string;
  kind: "text" | "mm" | "number" | "choice";
  choices?: [value: string, label: string][];
  unit?: string;
  /** Whether a text may be empty. */
  empty?: boolean;
}

const mm = (path: string, label: string): Field => ({ path, label, kind: "mm" });
const number = (path: string, label: string, unit: string): Field => ({ path, label, kind: "number", unit });
const choice = (path: string, label: string, ...choices: [string, string][]): Field => ({ path, label, kind: "choice", choices });
const ADDRESS: Field = { path: "address", label: "Address", kind: "text", empty: true };
const SIMULATED: Field = choice("simulated", "Without an address", ["true", "use a simulated one"], ["false", "not connected"]);
const NAME: Field = { path: "name", label: "Name", kind: "text" };

export const STOCK_FIELDS: Field[] = [
  NAME,
  choice("kind", "Supplied as", ["sheet", "sheets"], ["roll", "a roll"]),
  mm("width_mm", "Width"),
  mm("height_mm", "Height, or longest panel"),
  choice("face", "Face", ["paper", "paper"], ["vinyl", "vinyl"], ["film", "film"], ["card", "card"]),
  choice("gloss", "Finish", ["matt", "matt"], ["satin", "satin"], ["gloss", "gloss"]),
  number("face_um", "Face thickness", "µm"),
  number("liner_um", "Liner thickness", "µm"),
  number("price", "Price", "per sheet or m"),
  number("left", "In stock", "sheets or m"),
];

export const PRINTER_FIELDS: Field[] = [
  NAME,
  mm("margin_side_mm", "Side margins"),
  mm("margin_top_mm", "Top margin"),
  mm("margin_bottom_mm", "Bottom margin"),
  mm("widest_mm", "Widest sheet"),
  mm("longest_mm", "Longest sheet"),
  number("ink_ml_m2", "Ink at full coverage", "ml/m²"),
  number("ink_price", "Price of ink", "per ml"),
  ADDRESS,
  SIMULATED,
];

export const PLOTTER_FIELDS: Field[] = [
  NAME,
  mm("cutting_width_mm", "Cutting width"),
  mm("longest_mm", "Longest sheet"),
  mm("knife_offset_mm", "Knife offset"),
  mm("mat_width_mm", "Mat width, 0 for none"),
  mm("mat_height_mm", "Mat height"),
  mm("grip_side_mm", "Side grip"),
  mm("grip_top_mm", "Top grip"),
  mm("grip_bottom_mm", "Bottom grip"),
  mm("reach_side_mm", "Sensor reach, sides"),
  mm("reach_top_mm", "Sensor reach, top"),
  mm("reach_bottom_mm", "Sensor reach, bottom"),
  { path: "blade", label: "Blade fitted", kind: "text", empty: true },
  number("force.least", "Lowest force", ""),
  number("force.most", "Highest force", ""),
  number("force.step", "Force step", ""),
  choice("force.unit", "Force unit", ["steps", "the plotter's steps"], ["gf", "grams"]),
  choice("light_corners", "Corner turning", ["false", "with the blade down"], ["true", "lifted to a light touch"]),
  choice("has_sensor", "Marks are found", ["true", "by its sensor"], ["false", "by a person, the blade over them"]),
  mm("corner_x_mm", "Sheet corner, across"),
  mm("corner_y_mm", "Sheet corner, along"),
  ADDRESS,
  SIMULATED,
];

export const MARK_FIELDS: Field[] = [
  choice("marks.pattern", "Marks", ...PATTERNS.filter(({ name }) => name !== "own").map(({ name, title }): [string, string] => [name, title])),
  choice("marks.shape", "Shape", ...SHAPES.filter(({ name }) => name !== "frame_corner").map(({ name, title }): [string, string] => [name, title])),
  mm("marks.radius_mm", "Size, radius"),
  mm("marks.line_mm", "Line weight"),
  mm("marks.side_mm", "Side inset"),
  mm("marks.top_mm", "Top inset"),
  mm("marks.bottom_mm", "Bottom inset"),
  mm("marks.clear_mm", "Clear zone"),
  mm("marks.spacing_mm", "Largest spacing of pairs"),
];

type Data = Record<string, unknown>;

const read = (thing: Data, path: string): unknown => path.split(".").reduce<unknown>((at, part) => (at as Data | undefined)?.[part], thing);
const written = (thing: Data, path: string, value: unknown): Data => {
  const [first, ...rest] = path.split(".");
  return { ...thing, [first!]: rest.length ? written((thing[first!] ?? {}) as Data, rest.join("."), value) : value };
};

/** The numbers of a stock, a printer or a plotter, each kept when it is left. */
export function EquipmentForm({ of: thing, fields, onKeep }: { of: object; fields: Field[]; onKeep: (changed: object) => void }) {
  return (
    <div className="grid grid-cols-2 gap-x-6 gap-y-1 border-t border-dashed border-rule px-3.5 py-2.5">
      {fields.map((field) => <OneField key={field.path} field={field} value={read(thing as Data, field.path)} onKeep={(value) => onKeep(written(thing as Data, field.path, value))} />)}
    </div>
  );
}

function OneField({ field, value, onKeep }: { field: Field; value: unknown; onKeep: (value: unknown) => void }) {
  const { unit, figure, toMm } = useUnits();
  const id = useId();
  const shown = field.kind === "mm" ? figure(Number(value ?? 0)) : String(value ?? "");
  const { input, restore } = useTyped(shown, (text) => {
    if (text === shown) return;
    if (field.kind === "text") return text.trim() || field.empty ? onKeep(text.trim()) : restore();
    const typed = Number(text.replace(",", "."));
    if (!Number.isFinite(typed)) return restore();
    onKeep(field.kind === "mm" ? Math.round(toMm(typed) * 1000) / 1000 : typed);
  });
  return (
    <div className="flex items-center justify-between gap-2">
      <label htmlFor={id} className="text-quiet">{field.label}</label>
      {field.kind === "choice" ? (
        <select id={id} value={String(value)} onChange={(event) => onKeep(event.target.value)} className="rounded border border-rule bg-paper px-2 py-0.5 hover:border-act">
          {field.choices!.map(([each, label]) => <option key={each} value={each}>{label}</option>)}
        </select>
      ) : (
        <span className="flex items-center gap-1.5">
          <input
            id={id}
            {...input}
            maxLength={200}
            className={`rounded border border-rule bg-paper px-2 py-0.5 focus:border-act ${field.kind === "text" ? "w-44" : "figure w-20 text-right text-[13px]"}`}
          />
          {field.kind !== "text" && <span className="figure w-[72px] text-[11px] text-quiet">{field.unit ?? unit}</span>}
        </span>
      )}
    </div>
  );
}
