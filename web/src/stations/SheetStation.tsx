import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api, ask, type Recipe, type Sheets } from "../api/client";
import { SheetDrawing } from "../bench/drawing";
import { LightTable } from "../bench/LightTable";
import { ART, ERROR, KISS, MARKS, THROUGH, USABLE } from "../bench/LineKey";
import { useJob } from "../shop/job";
import { Choice } from "../ui/Choice";
import { CountField } from "../ui/CountField";
import { Findings } from "../ui/Findings";
import { LengthField } from "../ui/LengthField";
import { Figures, Reading, Row, Section } from "../ui/Reading";
import { Toggle } from "../ui/Toggle";
import { useUnits } from "../units";
import { ErrorMap } from "./sheet/ErrorMap";
import { Questions } from "./sheet/Questions";
import { Setups } from "./sheet/Setups";
import { SheetPager } from "./SheetPager";
import { EmptyTable, Station } from "./Station";
import { count } from "./stations";
import { useDraft } from "./useDraft";

const LAYERS = [ART, KISS, THROUGH, MARKS, USABLE, ERROR];
const HIDDEN = [ERROR.id];
const STOCKS = [{ value: "a4" as const, label: "A4" }, { value: "letter" as const, label: "Letter" }];
const FILLS = [{ value: "fill" as const, label: "Fill a sheet" }, { value: "count" as const, label: "By number" }];

const BLOCKS = [{ value: "none" as const, label: "None" }, { value: "perforate" as const, label: "Perforated" }, { value: "through" as const, label: "Through" }];

export function SheetStation() {
  const { job, change } = useJob();
  const { length, size } = useUnits();
  const [page, setPage] = useState(0);
  const { recipe } = job;
  const [gap, setGap, settle] = useDraft<number | null>(null, job.id);
  const tried = useQuery({
    queryKey: ["sheets", job.id, job.revision, gap],
    enabled: gap !== null,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask<Sheets>(api.POST("/api/sheets", { signal, body: { ...recipe, sheet: { ...recipe.sheet!, gap_mm: gap! } } })),
  });
  const sheets = (gap !== null && tried.data) || job.sheets;
  const number = Math.min(page, Math.max(0, sheets.sheets.length - 1));
  useEffect(() => setPage(0), [recipe.sheet?.stock]);
  const keep = (label: string, changes: Partial<NonNullable<Recipe["sheet"]>>) =>
    settle(change(label, (before) => ({ ...before, sheet: { ...before.sheet!, ...changes } })));
  const designs = recipe.designs ?? [];

  if (designs.length === 0)
    return (
      <Station table={<EmptyTable>Drop a picture at station 1, and this sheet fills itself.</EmptyTable>} next={{ label: "Go to artwork", station: 1 }}>
        <Section title="How many, how big"><p className="px-3.5 text-quiet">No pieces yet.</p></Section>
      </Station>
    );

  return (
    <Station
      next={sheets.sheets.length ? { label: "Go to print", station: 4 } : undefined}
      table={
        <LightTable
          box={{ x: 0, y: 0, width: sheets.width_mm, height: sheets.height_mm }}
          subject={`sheet ${sheets.stock}`}
          label={`${sheets.stock} · ${size(sheets.width_mm, sheets.height_mm, 0)}`}
          layers={LAYERS}
          hiddenAtFirst={HIDDEN}
        >
          {(shown) => (
            <>
              <SheetDrawing job={{ ...job, sheets }} number={number} shown={shown} />
              {shown.has("error") && <ErrorMap sheets={sheets} number={number} />}
            </>
          )}
        </LightTable>
      }
    >
      <Section title="How many, how big">
        <Figures
          items={[
            { value: sheets.sheets[number]?.length ?? 0, label: "up on this sheet" },
            { value: sheets.sheets.length, label: sheets.sheets.length === 1 ? "sheet" : "sheets" },
            { value: `${Math.round(sheets.used_share * 100)} %`, label: "of the sheet used" },
          ]}
        />
        <SheetPager number={number} count={sheets.sheets.length} onTurn={setPage} />
        {designs.length > 1 && <Reading label="All stickers">{sheets.count}</Reading>}
      </Section>
      <Section title="Stock and filling">
        <Row>
          <span className="text-quiet">Stock</span>
          <Choice label="Stock" value={recipe.sheet?.stock ?? "a4"} options={STOCKS} onChange={(stock) => keep(stock === "a4" ? "A4" : "Letter", { stock })} />
        </Row>
        <Row>
          <span className="text-quiet">Copies</span>
          <Choice
            label="Copies"
            value={recipe.sheet?.fill ? "fill" : "count"}
            options={FILLS}
            onChange={(fill) => keep(fill === "fill" ? "Fill a sheet" : "Copies by number", { fill: fill === "fill" })}
          />
        </Row>
        {designs.map((design) =>
          recipe.sheet?.fill ? (
            <Reading key={design.id} label={design.name}>{job.designs.find((each) => each.id === design.id)?.placed ?? 0} up</Reading>
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
        <Toggle label="Made for an order" on={recipe.order ?? false} onChange={(order) => void change(order ? "An order" : "Not an order", (before) => ({ ...before, order }))} />
        <LengthField label="Gap between stickers" mm={gap ?? recipe.sheet?.gap_mm ?? 2} min={0} max={50} reach={10} onMove={setGap} onKeep={(mm) => keep(`Gap ${length(mm)}`, { gap_mm: mm })} />
        <Row>
          <span className="text-quiet" title="One line round everything on the sheet">Block</span>
          <Choice label="A line round everything" value={recipe.sheet?.block ?? "none"} options={BLOCKS} onChange={(block) => keep(block === "none" ? "No block" : `Block: ${block}`, { block })} />
        </Row>
        {(recipe.sheet?.block ?? "none") !== "none" && <LengthField label="Margin of the block" mm={recipe.sheet?.block_margin_mm ?? 4} min={1} max={30} reach={12} onKeep={(mm) => keep(`Block margin ${length(mm)}`, { block_margin_mm: mm })} />}
      </Section>
      <Questions key={job.id} />
      <Setups />
      <Findings title="Before it prints" findings={sheets.findings} />
      <Section title="Marks">
        <Reading label="Scheme" words>four corners, one ringed</Reading>
        {sheets.worst_error_mm != null && <Reading label="Cut error to expect, at worst">{length(sheets.worst_error_mm, 3)}</Reading>}
        {sheets.outside_marks > 0 && <Reading label="Reach outside the marks">{count(sheets.outside_marks, "sticker")}</Reading>}
        <p className="px-3.5 pb-1 text-[12.5px] text-quiet">
          Nothing that cuts leaves the dotted area: printer margin, grip and the marks&rsquo; clear zones are kept free.
        </p>
      </Section>
    </Station>
  );
}
