import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api, ask, type SheetRecipe, type Sheets, type Stand } from "../api/client";
import { SheetDrawing } from "../bench/drawing";
import { LightTable } from "../bench/LightTable";
import { ART, ERROR, KISS, MARKS, THROUGH, USABLE } from "../bench/LineKey";
import { useJob } from "../shop/job";
import { Findings, needLooking } from "../ui/Findings";
import { Figures, Reading, Section } from "../ui/Reading";
import { useUnits } from "../units";
import { ErrorMap } from "./sheet/ErrorMap";
import { FillingSection } from "./sheet/FillingSection";
import { HandSection } from "./sheet/HandSection";
import { Locks } from "./sheet/Locks";
import { Questions } from "./sheet/Questions";
import { Setups } from "./sheet/Setups";
import { standsOf } from "./sheet/stands";
import { useLayoutHand } from "./sheet/useLayoutHand";
import { SheetPager } from "./SheetPager";
import { EmptyTable, Station } from "./Station";
import { count } from "./stations";
import { useDraft } from "./useDraft";

const LAYERS = [ART, KISS, THROUGH, MARKS, USABLE, ERROR];
const HIDDEN = [ERROR.id];
export function SheetStation() {
  const { job, change } = useJob();
  const { length, size } = useUnits();
  const [page, setPage] = useState(0);
  const { recipe } = job;
  const [gap, setGap, settle] = useDraft<number | null>(null, job.id);
  const [stands, setStands, settleStands] = useDraft<Stand[] | null>(null, job.id);
  const tried = useQuery({
    queryKey: ["sheets", job.id, job.revision, gap, stands],
    enabled: gap !== null || stands !== null,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask<Sheets>(api.POST("/api/sheets", { signal, body: { ...recipe, sheet: { ...recipe.sheet!, gap_mm: gap ?? recipe.sheet!.gap_mm, ...(stands && { method: "hand" as const, stands }) } } })),
  });
  const sheets = ((gap !== null || stands !== null) && tried.data) || job.sheets;
  const number = Math.min(page, Math.max(0, sheets.sheets.length - 1));
  useEffect(() => setPage(0), [recipe.sheet?.stock]);
  const keep = (label: string, changes: Partial<SheetRecipe>) =>
    settle(change(label, (before) => ({ ...before, sheet: { ...before.sheet!, ...changes } })));
  const layout = useLayoutHand({
    sheets,
    number,
    gapMm: recipe.sheet?.gap_mm ?? 2,
    attempt: setStands,
    keep: (label, next) => settleStands(change(label, (before) => ({ ...before, sheet: { ...before.sheet!, method: "hand", stands: next } }))),
  });
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
          hand={layout.hand}
          pins={needLooking(sheets.findings).filter((each) => each.where_mm && each.sheet === number)}
        >
          {(shown) => (
            <>
              <SheetDrawing job={{ ...job, sheets }} number={number} shown={shown} />
              <Locks sheets={sheets} number={number} />
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
      <FillingSection
        sheet={recipe.sheet!}
        gapMm={gap ?? recipe.sheet?.gap_mm ?? 2}
        onGap={setGap}
        keep={keep}
        onHand={() => {
          keep("Places by hand", { method: "hand", stands: standsOf(job.sheets) });
          layout.setActive(true);
        }}
      />
      <HandSection sheets={sheets} layout={layout} keep={keep} />
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
