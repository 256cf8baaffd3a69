import { useState } from "react";

import { type Run, sendFile, urlOf } from "../../api/client";
import { Paper } from "../../bench/drawing";
import { LightTable } from "../../bench/LightTable";
import { CUTS, SLIP } from "../../bench/LineKey";
import { useJob } from "../../job/job";
import { useWholeRun } from "../../job/useWholeRun";
import { Button } from "../../ui/Button";
import { FileButton } from "../../ui/FileButton";
import { useNotice } from "../../ui/Notice";
import { Figures, Section } from "../../ui/Reading";
import { useUnits } from "../../ui/units";
import { CalibrationPage } from "./CalibrationPage";
import { CountedStickers, CountSection, useCounting } from "./CountSection";
import { CalibrationSection } from "./CalibrationSection";
import { RulerForm } from "./RulerForm";
import { useWhose, WhoseSection, WhoseStickers } from "./WhoseSection";
import { LeftOver } from "../scraps";
import { EmptyTable, Station } from "../Station";

const LAYERS = [CUTS, SLIP];
const TONE: Record<string, string> = { done: "text-good", stopped: "text-stop", cancelled: "text-look" };

export function LogStation() {
  const { job, refresh } = useJob();
  const { length, figure } = useUnits();
  const [page, setPage] = useState<string | null>(null);
  const [chosen, setChosen] = useState<number | null>(null);
  const runs = job.runs.filter((run) => run.state !== "queued");
  const run = useWholeRun(runs.find((each) => each.id === chosen) ?? runs.find((each) => each.has_picture) ?? runs[0]);
  const { sheets } = job;
  const tell = useNotice();
  const [reading, setReading] = useState(false);
  const [byRuler, setByRuler] = useState(false);
  const counting = useCounting(run);
  const whose = useWhose(run);
  if (page) return <CalibrationPage plotter={page} onBack={() => setPage(null)} />;
  if (!run)
    return (
      <Station table={<EmptyTable>After the first cut this shows the sheet as it was cut, with the slip at every sticker.</EmptyTable>} next={{ label: "Go to the plotter", station: 5 }}>
        <Section title="Slip">
          <p className="px-3.5 pb-1.5 text-quiet">Nothing cut yet. Calibrate a new plotter before its first sheet.</p>
          <p className="px-3.5"><Button onClick={() => setPage(job.recipe.sheet?.plotter?.name ?? "the plotter")}>Calibrate by one page …</Button></p>
        </Section>
      </Station>
    );
  const bare = job.prints.find((print) => print.id === run.print_id)?.way === "bare";
  const slips = run.slips ?? [];
  const sure = slips.map((each) => each.sure_mm ?? 0).sort((a, b) => b - a)[0];
  const measure = (file: File) => {
    setReading(true);
    void sendFile("post_run_picture", { run_id: run.id }, file)
      .catch(tell)
      .finally(() => {
        setReading(false);
        refresh();
      });
  };
  const worst = slips.length ? slips.reduce((a, b) => (b.slip_mm > a.slip_mm ? b : a)) : undefined;

  return (
    <Station
      table={
        <LightTable
          box={{ x: 0, y: 0, width: sheets.width_mm, height: sheets.height_mm }}
          subject={`log ${sheets.stock}`}
          label={`cut ${run.id} · sheet ${run.sheet + 1}`}
          layers={LAYERS}
        >
          {(shown) => (
            <>
              <Paper width={sheets.width_mm} height={sheets.height_mm} />
              {shown.has("cuts") && run.has_picture && (
                <image href={urlOf("get_cut_picture", { run_id: run.id })} width={sheets.width_mm} height={sheets.height_mm} preserveAspectRatio="none" />
              )}
              {run.lines_done > 0 && <CountedStickers run={run} counting={counting} />}
              <WhoseStickers run={run} whose={whose} />
              {shown.has("slip") &&
                slips.map((slip, index) => (
                  <g key={index} transform={`translate(${slip.x_mm} ${slip.y_mm})`} className="pointer-events-none">
                    <rect x="-9.5" y="-4" width="19" height="8" rx="2" fill="#fff" fillOpacity=".92" stroke={slip.good ? "#23734a" : "#a3301e"} strokeWidth=".4" />
                    <text y="1.5" textAnchor="middle" fontSize="4.2" className="figure" fill={slip.good ? "#23734a" : "#a3301e"}>
                      {slip.good ? "" : "! "}{figure(slip.slip_mm)}
                    </text>
                  </g>
                ))}
            </>
          )}
        </LightTable>
      }
    >
      <CountSection key={run.id} run={run} counting={counting} />
      <WhoseSection whose={whose} />
      <LeftOver key={`left ${run.id}`} run={run} />
      {bare ? (
        <Section title="Slip">
          <p className="px-3.5 pb-1 text-quiet">Slip is not measured on bare stock: there is no print to measure from.</p>
          {run.message && <p className={`px-3.5 pb-1 ${TONE[run.state] ?? ""}`}>{run.message}</p>}
        </Section>
      ) : (
      <Section title="Slip, cut against print">
        <Figures
          items={
            run.good == null
              ? [{ value: "–", label: "not measured" }]
              : [
                  { value: figure(run.slip_largest_mm ?? 0), label: "largest" },
                  { value: figure(run.slip_mean_mm ?? 0), label: "mean" },
                  { value: `${run.good}`, label: `within, of ${run.good + (run.bad ?? 0)}` },
                ]
          }
        />
        {run.good != null && (
          <>
            {worst && (
              <p className="px-3.5 pb-1">
                {(run.bad ?? 0) === 0
                  ? `Every sticker's slip stays within its border: the worst uses ${length(worst.slip_mm)} of ${length(worst.limit_mm)}.`
                  : `${run.bad} slipped further than their border covers; the worst by ${length(worst.slip_mm)}, its border is ${length(worst.limit_mm)}.`}
              </p>
            )}
          </>
        )}
        {run.is_over && run.lines_done > 0 && (
          <div className="px-3.5 py-1">
            <FileButton label="Scan or photo of the cut sheet" accept="image/*" onFile={(file) => measure(file)}>
              {reading ? "Reading the picture …" : "Measure from a scan or photo"}
            </FileButton>
            {" "}<Button onClick={() => setByRuler(!byRuler)}>By ruler …</Button>
            <p className="pt-1 text-[12.5px] text-quiet">
              {run.measured_by === "ruler"
                ? `Read by ruler at a few stickers${sure === undefined ? "" : `, each sure to ${length(sure)}`}.`
                : run.measured_by === "picture"
                ? `Read from a picture of the sheet${sure === undefined ? "" : `, each sure to ${length(sure)}`}.`
                : "The whole sheet, flat, all four marks in sight, light from the side."}
            </p>
          </div>
        )}
        {byRuler && <RulerForm key={run.id} run={run} onBack={() => setByRuler(false)} onDone={() => { setByRuler(false); refresh(); }} />}
        {run.message && <p className={`px-3.5 pb-1 ${TONE[run.state] ?? ""}`}>{run.message}</p>}
      </Section>
      )}
      <Section title="Cuts of this job">
        <ul className="px-2.5 pb-1">
          {runs.map((each) => (
            <RunRow key={each.id} run={each} on={each.id === run.id} onChoose={() => setChosen(each.id)} />
          ))}
        </ul>
      </Section>
      <CalibrationSection key={run.plotter} plotter={run.plotter} onPage={setPage} />
      {slips.length > 0 && (
        <Section title="Sticker by sticker">
          <table className="figure mx-3.5 w-[calc(100%-1.75rem)] text-[12px]">
            <thead className="text-left text-quiet">
              <tr><th className="font-normal">piece</th><th className="text-right font-normal">slip</th><th className="text-right font-normal">across</th><th className="text-right font-normal">along</th></tr>
            </thead>
            <tbody>
              {slips.map((slip, index) => (
                <tr key={index} className={slip.good ? "" : "text-stop"}>
                  <td className="max-w-24 truncate">{job.recipe.designs?.find((each) => each.id === slip.design)?.name ?? slip.design}</td>
                  <td className="text-right">{figure(slip.slip_mm)}</td>
                  <td className="text-right">{figure(slip.dx_mm)}</td>
                  <td className="text-right">{figure(slip.dy_mm)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </Section>
      )}
    </Station>
  );
}

function RunRow({ run, on, onChoose }: { run: Run; on: boolean; onChoose: () => void }) {
  const when = new Date(run.created_at).toLocaleString(undefined, { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit", hourCycle: "h23" });
  return (
    <li>
      <button type="button" aria-pressed={on} onClick={onChoose} className="w-full rounded-md px-2 py-1 text-left hover:bg-paper aria-pressed:bg-act-pale">
        <span className="flex justify-between gap-2">
          <span>Cut {run.id}, sheet {run.sheet + 1}</span>
          <span className={`text-[12px] font-semibold ${TONE[run.state] ?? "text-quiet"}`}>{run.state}</span>
        </span>
        <span className="figure block text-[11px] text-quiet">
          {when}{run.counted_good != null ? ` · ${run.counted_good} good, ${run.counted_bad} bad` : run.state === "done" ? " · not counted" : ""}
        </span>
      </button>
    </li>
  );
}
