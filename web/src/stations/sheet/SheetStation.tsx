import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { call, type SetPlace, type SheetRecipe } from "../../api/client";
import { LightTable } from "../../bench/LightTable";
import { ART, ERROR, MARKS, USABLE } from "../../bench/LineKey";
import { useJob } from "../../job/job";
import { stockId } from "../../job/useShop";
import { Findings, needLooking } from "../Findings";
import { Figures, Reading, Section } from "../../ui/Reading";
import { useUnits } from "../../ui/units";
import { CardSection } from "./CardSection";
import { Compare } from "./Compare";
import { CostSection } from "./CostSection";
import { ErrorMap } from "./ErrorMap";
import { FillingSection, STOCK_AND_FILLING } from "./FillingSection";
import { GroupSection } from "./GroupSection";
import { HandSection } from "./HandSection";
import { LabelsSection } from "./LabelsSection";
import { Locks } from "./Locks";
import { KindChoice, MachineSection, StockChoice } from "./MachineSection";
import { Questions } from "./Questions";
import { Rest } from "./Rest";
import { Setups } from "./Setups";
import { placesOf } from "./places";
import { useLayoutHand } from "./useLayoutHand";
import { useMarksHand } from "./useMarksHand";
import { SheetPager } from "../SheetPager";
import { OneOpen } from "../../ui/Fold";
import { JobSheet, useSheetLayers } from "../JobSheet";
import { ScrapOffer } from "../scraps";
import { EmptyTable, Station } from "../Station";
import { useDraft } from "../../job/useDraft";

const HIDDEN = [ERROR.id];

export function SheetStation() {
  const { job, change } = useJob();
  const { size } = useUnits();
  const processes = useSheetLayers();
  const [page, setPage] = useState(0);
  const { recipe } = job;
  const [gap, setGap, settle] = useDraft<number | null>(null, job.id);
  const [places, setPlaces, settlePlaces] = useDraft<SetPlace[] | null>(null, job.id);
  const [marksAt, setMarksAt, settleMarks] = useDraft<[number, number][] | null>(null, job.id);
  const drafted = gap !== null || places !== null || marksAt !== null;
  const tried = useQuery({
    queryKey: ["sheets", job.id, job.revision, gap, places, marksAt],
    enabled: drafted,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      call("post_sheets", { signal, body: { ...recipe, sheet: { ...recipe.sheet!, gap_mm: gap ?? recipe.sheet!.gap_mm, ...(places && { method: "hand" as const, placements: places }), ...(marksAt && { marks_at: marksAt }) } } }),
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
    attempt: setPlaces,
    keep: (label, next) => settlePlaces(change(label, (before) => ({ ...before, sheet: { ...before.sheet!, method: "hand", placements: next } }))),
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
      next={sheets.sheets.length ? recipe.sheet?.cut_only ? { label: "Go to the plotter", station: 5 } : { label: "Go to print", station: 4 } : undefined}
      table={
        <LightTable
          box={{ x: 0, y: 0, width: sheets.width_mm, height: sheets.height_mm }}
          subject={`sheet ${sheets.stock} ${sheets.height_mm}`}
          label={`${sheets.stock} · ${size(sheets.width_mm, sheets.height_mm, 0)}`}
          layers={recipe.sheet?.cut_only ? [...processes, USABLE] : [ART, ...processes, MARKS, USABLE, ERROR]}
          hiddenAtFirst={HIDDEN}
          hand={layout.hand ?? marks.hand}
          pins={needLooking(sheets.findings).filter((each) => each.where_mm && (each.sheet ?? number) === number)}
        >
          {(shown) => (
            <>
              <JobSheet sheets={sheets} number={number} shown={shown} />
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
            { value: sheets.sheets[number]?.placements.length ?? 0, label: sheets.nest_waiting ? "in rows for now" : "on this sheet" },
            { value: sheets.sheets.length, label: sheets.sheets.length === 1 ? "sheet" : "sheets" },
            { value: `${Math.round(sheets.used_share * 100)} %`, label: "of the sheet used" },
          ]}
        />
        <SheetPager number={number} count={sheets.sheets.length} onTurn={setPage} />
        {sheets.roll_mm != null && <Reading label="Of the roll">{(sheets.roll_mm / 1000).toFixed(2)} m</Reading>}
        {designs.length > 1 && <Reading label="All stickers">{sheets.count}</Reading>}
        <ScrapOffer sheets={sheets} keep={keep} />
      </Section>
      {/* The figures above say it while a nest is searched: a card that comes and goes would move every control. */}
      <Findings title={recipe.sheet?.cut_only ? "Before it is cut" : "Before it prints"} findings={sheets.findings.filter((finding) => finding.code !== "nest_waiting")} />
      <OneOpen first={STOCK_AND_FILLING}>
        <FillingSection
          sheet={recipe.sheet!}
          gapMm={gap ?? recipe.sheet?.gap_mm ?? 2}
          onGap={setGap}
          keep={keep}
          onHand={() => {
            keep("Places by hand", { method: "hand", placements: placesOf(job.sheets) });
            take("pieces", true);
          }}
        >
          <StockChoice sheets={sheets} />
          <KindChoice keep={keep} />
        </FillingSection>
        {!recipe.sheet?.card && <HandSection sheets={sheets} layout={{ ...layout, setActive: (on) => take("pieces", Boolean(on)) }} keep={keep} />}
        <MachineSection sheets={sheets} keep={keep} moving={marks.active} onMove={() => take("marks", !marks.active)} />
        <Questions key={job.id} />
        <CostSection key={`cost ${job.id}`} />
        <GroupSection />
        <LabelsSection />
        <CardSection keep={keep} />
        <Rest sheets={sheets} keep={keep} />
        <Compare key={`ways ${job.id}`} />
        <Setups />
      </OneOpen>
    </Station>
  );
}
