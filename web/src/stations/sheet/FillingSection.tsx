import { type ReactNode, useState } from "react";

import type { SheetRecipe } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { CountField } from "../../ui/CountField";
import { Fold } from "../../ui/Fold";
import { LengthField } from "../../ui/LengthField";
import { Reading, Row } from "../../ui/Reading";
import { Slide } from "../../ui/Slide";
import { Toggle } from "../../ui/Toggle";
import { count } from "../../job/stubs";
import { useUnits } from "../../ui/units";
import { PiecesTable } from "../PiecesTable";
import { AnotherNest } from "./AnotherNest";

const FILLS = [{ value: "fill" as const, label: "Fill a sheet" }, { value: "count" as const, label: "By number" }];
const METHODS = [
  { value: "rows" as const, label: "Rows", title: "Rows and columns" },
  { value: "nest" as const, label: "Nested", title: "Pieces turned into each other's hollows" },
  { value: "hand" as const, label: "By hand", title: "Where you put them" },
];
/** On what is left of a sheet pieces stand one by one, whatever their rows or nests would be. */
const ON_SCRAP = [{ value: "rows" as const, label: "Where there is room" }, METHODS[2]!];
const STYLES = [
  { value: "straight" as const, label: "Straight" },
  { value: "half_turn" as const, label: "Turned", title: "A half turn round" },
  { value: "half_step" as const, label: "Stepped", title: "A half step along" },
];
const TURNS = [
  { value: "none" as const, label: "None" },
  { value: "half" as const, label: "Half" },
  { value: "quarter" as const, label: "Quarter" },
  { value: "free" as const, label: "Free" },
];
const AROUND = [{ value: "none" as const, label: "None" }, { value: "perforate" as const, label: "Perforated" }, { value: "through" as const, label: "Through" }];

/** Up to so many pieces are counted in the pane; more have a table of their own. */
const FEW = 6;

export const STOCK_AND_FILLING = "Stock and filling";

const PARTS = [
  { value: "whole" as const, label: "By process", told: "process after process", why: "All kiss lines first, through lines last: the sheet stays whole for as long as possible." },
  { value: "stickers" as const, label: "By sticker", told: "sticker after sticker", why: "All lines of one sticker before the next, for stock that clings or creeps. Use a mat: through-cut stickers come loose while others wait." },
  { value: "sections" as const, label: "In sections", told: "section after section", why: "For long sheets and rolls: marks are sensed again before each section, so that creep and stretch are followed." },
];

interface Props {
  sheet: SheetRecipe;
  gapMm: number;
  onGap: (mm: number) => void;
  keep: (label: string, changes: Partial<SheetRecipe>) => void;
  /** Takes every place as it is now, to be moved by hand. */
  onHand: () => void;
  /** Which stock. */
  children: ReactNode;
}

/** Which stock, how many of what, and how they find their places. */
export function FillingSection({ sheet, gapMm, onGap, keep, onHand, children }: Props) {
  const { job, change } = useJob();
  const { length } = useUnits();
  const { recipe } = job;
  const scrap = sheet.scrap != null;
  const method = scrap && sheet.method === "nest" ? "rows" : (sheet.method ?? "rows");
  const methods = scrap ? ON_SCRAP : sheet.card ? METHODS.filter((each) => each.value !== "hand") : METHODS;
  const around = sheet.perimeter_cut ?? "none";
  const parts = sheet.parts ?? "whole";
  const through = (recipe.designs ?? []).some((design) => design.peel_mm != null || design.lines?.own === "through");
  const use = (next: "rows" | "nest" | "hand") =>
    next === "hand" ? onHand() : keep(next === "rows" ? "Rows and columns" : "Nest", { method: next, placements: (sheet.placements ?? []).filter((place) => place.locked) });
  const many = (recipe.designs ?? []).length > FEW;
  const [listed, setListed] = useState(false);
  const inWords = `${job.sheets.stock}, ${sheet.fill ? "filled" : "by number"}, ${methods.find((each) => each.value === method)?.label.toLowerCase()}`;
  return (
    <>
      <Fold title={STOCK_AND_FILLING} told={inWords}>
        {children}
        <Row>
          <span className="text-quiet">Copies</span>
          <Choice label="Copies" value={sheet.fill ? "fill" : "count"} options={FILLS} onChange={(fill) => keep(fill === "fill" ? "Fill a sheet" : "Copies by number", { fill: fill === "fill" })} />
        </Row>
        {many && (
          <Row>
            <span className="text-quiet">{count((recipe.designs ?? []).length, "piece")}</span>
            <Button onClick={() => setListed(true)}>{sheet.fill && !sheet.card ? "List them" : "How many of each"}</Button>
          </Row>
        )}
        <PiecesTable open={listed} onClose={() => setListed(false)} />
        <div>
          {!many && (recipe.designs ?? []).map((design) =>
            sheet.fill && !sheet.card ? (
              <Reading key={design.id} label={design.name}>{job.designs.find((each) => each.id === design.id)?.placed ?? 0} in all</Reading>
            ) : (
              <CountField
                key={design.id}
                label={design.name}
                value={design.copies ?? 1}
                min={1}
                max={2000}
                onKeep={(copies) =>
                  void change(`${copies} of ${design.name}`, (before) => ({
                    ...before,
                    designs: (before.designs ?? []).map((each) => (each.id === design.id ? { ...each, copies } : each)),
                  }))
                }
              />
            ),
          )}
        </div>
        <Row>
          <span className="text-quiet">Places</span>
          <Choice label="Places" value={method} options={methods} onChange={use} />
        </Row>
        {method === "rows" && !scrap && (recipe.designs ?? []).length === 1 && (
          <Row>
            <span className="text-quiet" title="What every second row does">2nd rows</span>
            <Choice label="Every second row" value={sheet.rows ?? "straight"} options={STYLES} onChange={(rows) => keep(`Rows: ${rows.replace("_", " ")}`, { rows })} />
          </Row>
        )}
        {(method === "nest" || (scrap && method === "rows")) && (
          <Row>
            <span className="text-quiet" title="How far a piece may be turned on the sheet">Turns</span>
            <Choice label="Turns" value={sheet.turns ?? "quarter"} options={TURNS} onChange={(turns) => keep(`Turns: ${turns}`, { turns })} />
          </Row>
        )}
        {method === "nest" && (
          <>
            <Slide label="Search time" min={2} max={30} value={sheet.nest_s ?? 8} say={(value) => `${value} s`} onKeep={(nest_s) => keep(`Search ${nest_s} s`, { nest_s })} />
            <AnotherNest sheet={sheet} keep={keep} />
          </>
        )}
        {!sheet.common_line && <LengthField label="Gap between stickers" mm={gapMm} min={0} max={50} reach={10} onMove={onGap} onKeep={(mm) => keep(`Gap ${length(mm)}`, { gap_mm: mm })} />}
        <Toggle label="Made for an order" on={recipe.order ?? false} onChange={(order) => void change(order ? "An order" : "Not an order", (before) => ({ ...before, order }))} />
      </Fold>
      {through && (
        <Fold title="Through lines" told={sheet.common_line ? "boxes share one cut" : `gap ${length(Math.max(sheet.through_gap_mm ?? 0, gapMm))}`}>
          {!sheet.common_line && <LengthField label="Gap of through lines" mm={Math.max(sheet.through_gap_mm ?? 0, gapMm)} min={0} max={50} reach={10} onKeep={(mm) => keep(`Gap of through lines ${length(mm)}`, { through_gap_mm: mm > gapMm ? mm : null })} />}
          <Toggle label="Boxes share their through lines" on={sheet.common_line ?? false} onChange={(common_line) => keep(common_line ? "Shared lines" : "No shared lines", { common_line })} />
        </Fold>
      )}
      <Fold title="Order of the cut" told={PARTS.find((each) => each.value === parts)!.told}>
        <Row>
          <span className="text-quiet">Cut</span>
          <Choice label="Order of the cut" value={parts} options={PARTS} onChange={(next) => keep(`Order of the cut: ${PARTS.find((each) => each.value === next)!.told}`, { parts: next })} />
        </Row>
        <p className="px-3.5 pb-1 text-[12.5px] text-quiet">{PARTS.find((each) => each.value === parts)!.why}</p>
      </Fold>
      <Fold title="Perimeter cut" told={around === "none" ? "none" : `${around === "perforate" ? "perforated" : "through"}, ${length(sheet.perimeter_margin_mm ?? 4)} outside`}>
        <Row>
          <span className="text-quiet" title="One cut round everything on the sheet">Cut</span>
          <Choice label="Perimeter cut" value={around} options={AROUND} onChange={(perimeter_cut) => keep(perimeter_cut === "none" ? "No perimeter cut" : `Perimeter cut: ${perimeter_cut}`, { perimeter_cut })} />
        </Row>
        {around !== "none" && <LengthField label="Perimeter margin" mm={sheet.perimeter_margin_mm ?? 4} min={1} max={30} reach={12} onKeep={(mm) => keep(`Perimeter margin ${length(mm)}`, { perimeter_margin_mm: mm })} />}
      </Fold>
    </>
  );
}
