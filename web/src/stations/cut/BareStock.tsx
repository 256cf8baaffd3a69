import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call } from "../../api/client";
import { Paper } from "../../bench/drawing";
import { LightTable } from "../../bench/LightTable";
import { ART, MARKS } from "../../bench/LineKey";
import { useJob } from "../../job/job";
import { useNotice } from "../../ui/Notice";
import { Button } from "../../ui/Button";
import { Section } from "../../ui/Reading";
import { Toggle } from "../../ui/Toggle";
import { JobSheet, useSheetLayers } from "../JobSheet";
import { SheetPager } from "../SheetPager";
import { EmptyTable, Station } from "../Station";
import { LoadingCard } from "./LoadingCard";
import { SettingsSection } from "./SettingsSection";
import { TestCut } from "./TestCut";
import { Totals } from "./Totals";

/** Sheets of bare stock to load, one after the other. */
export function BareStock({ number, isCut, onTurn, onBegun }: { number: number; isCut: boolean; onTurn: (number: number) => void; onBegun: (print: number) => void }) {
  const { job, refresh, did } = useJob();
  const tell = useNotice();
  const [hold, setHold] = useState(true);
  const [asked, setAsked] = useState(false);
  const many = job.sheets.sheets.length;
  const start = async () => {
    setAsked(true);
    try {
      const run = await call("post_bare_cut", { path: { job_id: job.id, number: number + 1 }, query: { hold } });
      did({ kind: "fixed", label: `Cut of sheet ${number + 1}` });
      onBegun(run.print_id);
    } catch (problem) {
      tell(problem);
    }
    setAsked(false);
    refresh();
  };
  return (
    <Section title="Bare stock">
      <SheetPager number={number} count={many} onTurn={onTurn} />
      <div className="flex flex-wrap items-center gap-1.5 px-3.5 py-1.5">
        <Button kind={isCut ? "plain" : "act"} disabled={asked} onClick={() => void start()}>
          {isCut ? `Load another sheet ${number + 1}` : `Load and cut sheet ${number + 1}`}
        </Button>
      </div>
      <Toggle label="Keep the sheet loaded, to check a corner" on={hold} onChange={setHold} />
      <LoadingCard />
    </Section>
  );
}

/** The station before the first sheet of bare stock is loaded. */
export function FirstBareSheet({ onBegun }: { onBegun: (print: number) => void }) {
  const { job } = useJob();
  const [page, setPage] = useState(0);
  const layers = useSheetLayers();
  const [testing, setTesting] = useState<string | null>(null);
  const { sheets } = job;
  const number = Math.min(page, Math.max(0, sheets.sheets.length - 1));
  const totals = useQuery({
    queryKey: ["totals", job.id, job.revision, number],
    enabled: sheets.sheets.length > 0,
    queryFn: () => call("get_cut_plan", { path: { job_id: job.id, number: number + 1 } }),
  });
  if (testing) return <TestCut process={testing} onBack={() => setTesting(null)} />;
  if (!sheets.sheets.length)
    return (
      <Station table={<EmptyTable>There is no filled sheet to cut yet. Fill one at station 3.</EmptyTable>} next={{ label: "Go to the sheet", station: 3 }}>
        <Section title="Cut"><p className="px-3.5 text-quiet">Nothing to cut yet.</p></Section>
      </Station>
    );
  return (
    <Station
      table={
        <LightTable box={{ x: 0, y: 0, width: sheets.width_mm, height: sheets.height_mm }} subject={`cut ${sheets.stock}`} label={`${sheets.stock} · sheet ${number + 1}`} layers={layers.filter((each) => each.id !== ART.id && each.id !== MARKS.id)}>
          {(shown) => (
            <>
              <Paper width={sheets.width_mm} height={sheets.height_mm} />
              <JobSheet number={number} shown={shown} paper={false} />
            </>
          )}
        </LightTable>
      }
    >
      <BareStock number={number} isCut={false} onTurn={setPage} onBegun={onBegun} />
      {totals.data && <Section title="Cut"><Totals plan={totals.data} /></Section>}
      {totals.data && <SettingsSection processes={totals.data.processes.map((each) => each.process)} onTest={setTesting} />}
    </Station>
  );
}
