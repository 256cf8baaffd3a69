import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { api, ask, type SheetRecipe, type Sheets, type Stand } from "../../api/client";
import { SheetDrawing } from "../../bench/drawing";
import { LightTable } from "../../bench/LightTable";
import { ART, ERROR, KISS, MARKS, THROUGH, USABLE } from "../../bench/LineKey";
import { useJob } from "../../job/job";
import { stockId } from "../../job/useShop";
import { Findings, needLooking } from "../Findings";
import { Figures, Reading, Section } from "../../ui/Reading";
import { useUnits } from "../../ui/units";
import { CardSection } from "./CardSection";
import { Compare } from "./Compare";
import { ErrorMap } from "./ErrorMap";
import { FillingSection } from "./FillingSection";
import { GroupSection } from "./GroupSection";
import { HandSection } from "./HandSection";
import { LabelsSection } from "./LabelsSection";
import { Locks } from "./Locks";
import { MachineSection } from "./MachineSection";
import { Questions } from "./Questions";
import { Rest } from "./Rest";
import { Setups } from "./Setups";
import { standsOf } from "./places";
import { useLayoutHand } from "./useLayoutHand";
import { useMarksHand } from "./useMarksHand";
import { SheetPager } from "../SheetPager";
import { EmptyTable, Station } from "../Station";
import { useDraft } from "../../job/useDraft";

const LAYERS = [ART, KISS, THROUGH, MARKS, USABLE, ERROR];
const HIDDEN = [ERROR.id];

export function SheetStation() {
  const { job, change } = useJob();
  const { size } = useUnits();
  const [page, setPage] = useState(0);
  const { recipe } = job;
  const [gap, setGap, settle] = useDraft<number | null>(null, job.id);
  const [stands, setStands, settleStands] = useDraft<Stand[] | null>(null, job.id);
  const [marksAt, setMarksAt, settleMarks] = useDraft<[number, number][] | null>(null, job.id);
  const drafted = gap !== null || stands !== null || marksAt !== null;
  const tried = useQuery({
    queryKey: ["sheets", job.id, job.revision, gap, stands, marksAt],
    enabled: drafted,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      ask<Sheets>(api.POST("/api/sheets", { signal, body: { ...recipe, sheet: { ...recipe.sheet!, gap_mm: gap ?? recipe.sheet!.gap_mm, ...(stands && { method: "hand" as const, stands }), ...(marksAt && { marks_at: marksAt }) } } })),
  });
  const sheets = (drafted && tried.data) || job.sheets;
  const number = Math.min(page, Math.max(0, sheets.sheets.length - 1));
  useEffect(() => setPage(0), [stockId(recipe.sheet)]); // eslint-disable-line react-hooks/exhaustive-deps
  const keep = (label: string, changes: Partial<SheetRecipe>) =>
    settle(change(label, (before) => ({ ...before, sheet: { ...before.sheet!, ...changes } })));
  const layout = useLayoutHand({
    sheets,
    number,
    gapMm: recipe.sheet?.gap_mm ?? 2,
    attempt: setStands,
    keep: (label, next) => settleStands(change(label, (before) => ({ ...before, sheet: { ...before.sheet!, method: "hand", stands: next } }))),
  });
  const marks = useMarksHand(sheets, setMarksAt, (at) => settleMarks(change("Move a mark", (before) => ({ ...before, sheet: { ...before.sheet!, marks_at: at } }))));
  const take = (what: "pieces" | "marks", on: boolean) => {
    layout.setActive(what === "pieces" && on);
    marks.setActive(what === "marks" && on);
  };
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
          subject={`sheet ${sheets.stock} ${sheets.height_mm}`}
          label={`${sheets.stock} · ${size(sheets.width_mm, sheets.height_mm, 0)}`}
          layers={LAYERS}
          hiddenAtFirst={HIDDEN}
          hand={layout.hand ?? marks.hand}
          pins={needLooking(sheets.findings).filter((each) => each.where_mm && (each.sheet ?? number) === number)}
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
        {sheets.roll_mm != null && <Reading label="Of the roll">{(sheets.roll_mm / 1000).toFixed(2)} m</Reading>}
        {designs.length > 1 && <Reading label="All stickers">{sheets.count}</Reading>}
      </Section>
      <FillingSection
        sheet={recipe.sheet!}
        gapMm={gap ?? recipe.sheet?.gap_mm ?? 2}
        onGap={setGap}
        keep={keep}
        onHand={() => {
          keep("Places by hand", { method: "hand", stands: standsOf(job.sheets) });
          take("pieces", true);
        }}
      >
        <MachineSection sheets={sheets} keep={keep} moving={marks.active} onMove={() => take("marks", !marks.active)} />
      </FillingSection>
      <GroupSection />
      {!recipe.sheet?.card && <HandSection sheets={sheets} layout={{ ...layout, setActive: (on) => take("pieces", Boolean(on)) }} keep={keep} />}
      <Findings title="Before it prints" findings={sheets.findings} />
      <Questions key={job.id} />
      <LabelsSection />
      <CardSection keep={keep} />
      <Rest sheets={sheets} />
      <Compare key={`ways ${job.id}`} />
      <Setups />
    </Station>
  );
}
