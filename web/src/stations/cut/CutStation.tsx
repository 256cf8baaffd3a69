import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { call, type Run, type Schemas, urlOf } from "../../api/client";
import { Paper } from "../../bench/drawing";
import { LightTable } from "../../bench/LightTable";
import type { Layer } from "../../bench/LineKey";
import { useJob } from "../../job/job";
import { useWholeRun } from "../../job/useWholeRun";
import { useIsSimulated } from "../../job/useShop";
import { useAsk } from "../../ui/Ask";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { useKeys } from "../../ui/keys";
import { useNotice } from "../../ui/Notice";
import { Reading, Section } from "../../ui/Reading";
import { Toggle } from "../../ui/Toggle";
import { useUnits } from "../../ui/units";
import { EmptyTable, Station } from "../Station";
import { JobSheet, useSheetLayers } from "../JobSheet";
import { BareStock, FirstBareSheet } from "./BareStock";
import { FilmOverPrint } from "./FilmOverPrint";
import { SettingsSection } from "./SettingsSection";
import { LoadingCard } from "./LoadingCard";
import { PlacingMarks } from "./PlacingMarks";
import { GoOn, Held, Stickers } from "./Held";
import { TestCut } from "./TestCut";
import { clock, Totals } from "./Totals";

const PRINT: Layer = { id: "print", label: "Print" };
const WORDS: Record<string, string> = {
  queued: "Waiting to start",
  loading: "Loading the sheet",
  sensing: "Looking for the marks",
  placing: "Setting the marks",
  cutting: "Cutting",
  paused: "Paused between two lines",
  held: "Still in the plotter",
  unloading: "Taking the sheet out",
  measuring: "Measuring the slip",
  done: "Done",
  stopped: "Stopped",
  cancelled: "Cancelled",
};

export function CutStation() {
  const { job, refresh, did } = useJob();
  const ask = useAsk();
  const isSimulated = useIsSimulated();
  const plotterRecipe = job.recipe.sheet?.plotter;
  const plotterName = `${plotterRecipe?.name ?? "Desk plotter"}${isSimulated("plotters", plotterRecipe?.id) ? " (simulated)" : ""}`;
  const tell = useNotice();
  const [chosen, setChosen] = useState<number | null>(null);
  const [again, setAgain] = useState(false);
  const [hold, setHold] = useState(true);
  const [page, setPage] = useState<number | null>(null);
  const [clings, setClings] = useState<Set<number>>(new Set());
  const [testing, setTesting] = useState<string | null>(null);
  const processes = useSheetLayers();
  const prints = job.prints.filter((each) => each.state === "printed");
  const cutAlready = new Set(job.runs.filter((run) => run.state === "done").map((run) => run.print_id));
  const going = job.runs.find((run) => !run.is_over);
  const next = prints.find((each) => each.current && !cutAlready.has(each.id)) ?? prints[0];
  const print = prints.find((each) => each.id === (going?.print_id ?? chosen ?? next?.id)) ?? next;
  const run = useWholeRun(job.runs.find((each) => each.print_id === print?.id));
  const { sheets } = job;
  const sheetHere = print?.current && print.sheet < sheets.sheets.length;
  const totals = useQuery({
    queryKey: ["totals", job.id, job.revision, print?.id],
    enabled: Boolean(sheetHere),
    queryFn: () =>
      call("get_cut_plan", { path: { job_id: job.id, number: print!.sheet + 1 }, query: { print: print!.id } }),
  });

  const approve = useRef<() => unknown>(() => undefined);
  const wait = useRef<() => unknown>(() => undefined);
  useKeys({ c: () => !testing && approve.current(), p: () => !testing && wait.current() });

  if (testing && print) return <TestCut process={testing} print={print} onBack={() => setTesting(null)} />;
  const bare = job.recipe.sheet?.cut_only ?? false;
  if (bare && !going && (!print || (chosen === null && !prints.some((each) => each.current)))) return <FirstBareSheet onBegun={setChosen} />;
  if (!print)
    return (
      <Station table={<EmptyTable>The plotter cuts a printed sheet. Print one at station 4 first.</EmptyTable>} next={{ label: "Go to print", station: 4 }}>
        <Section title="Cut"><p className="px-3.5 text-quiet">No printed sheet yet.</p></Section>
      </Station>
    );

  const start = async () => {
    // What is cut stays in sight when it is done, however many wait.
    setChosen(print.id);
    try {
      await call("post_cut", { path: { print_id: print.id }, query: { hold, ask: true } });
      did({ kind: "fixed", label: `Cut of print ${print.id}` });
    } catch (problem) {
      tell(problem);
    }
    refresh();
  };
  const cancel = async () => {
    try {
      await call("post_cancel", { path: { run_id: run!.id } });
    } catch (problem) {
      tell(problem);
    }
  };
  const pause = async () => {
    try {
      await call("post_pause", { path: { run_id: run!.id }, query: { on: run!.state !== "paused" } });
    } catch (problem) {
      tell(problem);
    }
    refresh();
  };
  const busy = run !== undefined && !run.is_over;
  // One key spends no sheet: it asks.
  const askToStart = async () => {
    const answer = await ask({
      title: `Load and cut print ${print.id}, sheet ${print.sheet + 1}?`,
      detail: `${plotterName} begins at once. Keep hands and hair off the moving carriage.`,
      acts: [{ value: "cut", label: "Load and cut" }],
    });
    if (answer) await start();
  };
  approve.current = () => !busy && run?.state !== "done" && void askToStart();
  const waits = busy && (run.state === "cutting" || run.state === "paused") && run.lines_done < run.lines_total;
  wait.current = () => waits && void pause();
  const cutSheets = new Set(prints.filter((each) => each.current && cutAlready.has(each.id)).map((each) => each.sheet));
  const firstUncut = sheets.sheets.findIndex((_, sheet) => !cutSheets.has(sheet));
  const bareSheet = Math.min(page ?? Math.max(0, firstUncut), Math.max(0, sheets.sheets.length - 1));
  const linesLeft = run?.lines_total === 0 || run?.lines_done !== run?.lines_total;

  return (
    <Station
      next={run?.state === "done" ? { label: "Open the log", station: 6 } : undefined}
      table={
        <LightTable
          box={{ x: 0, y: 0, width: sheets.width_mm, height: sheets.height_mm }}
          subject={`cut ${sheets.stock}`}
          label={`${bare ? "bare sheet" : "print"} ${print.id} · sheet ${print.sheet + 1}`}
          layers={run?.has_picture ? [PRINT] : [PRINT, ...processes]}
        >
          {(shown) => (
            <>
              <Paper width={sheets.width_mm} height={sheets.height_mm} />
              {shown.has("print") && (
                <image
                  href={run?.has_picture ? urlOf("get_cut_picture", { run_id: run.id }) : urlOf("get_printed", { print_id: print.id })}
                  width={sheets.width_mm}
                  height={sheets.height_mm}
                  preserveAspectRatio="none"
                />
              )}
              {run?.state === "placing" && sheetHere && sheets.marks[run.marking?.mark ?? -1] && (
                <circle
                  cx={sheets.marks[run.marking!.mark]!.x_mm}
                  cy={sheets.marks[run.marking!.mark]!.y_mm}
                  r={8}
                  fill="none"
                  stroke="#b3261e"
                  strokeWidth={0.9}
                />
              )}
              {sheetHere && run?.state === "held" && <Stickers run={run} number={print.sheet} chosen={clings} onChoose={setClings} />}
              {sheetHere && !run?.has_picture && (
                <g opacity={busy ? 0.45 : 1}>
                  <JobSheet number={print.sheet} shown={new Set([...shown].filter((id) => id !== PRINT.id))} paper={false} />
                </g>
              )}
            </>
          )}
        </LightTable>
      }
    >
      {run?.state === "placing" && run.marking && (
        <Section title={`Marks of print ${run.print_id}`}>
          <PlacingMarks run={run} marking={run.marking} />
        </Section>
      )}
      {bare && !busy && <BareStock number={bareSheet} isCut={cutSheets.has(bareSheet)} onTurn={setPage} onBegun={setChosen} />}
      <Section title={bare ? "Sheets that were loaded" : "Printed sheets"}>
        <ul className="px-2.5 pb-1">
          {prints.slice(0, 12).map((each) => (
            <li key={each.id}>
              <button
                type="button"
                aria-pressed={each.id === print.id}
                disabled={busy}
                onClick={() => setChosen(each.id)}
                className="flex w-full items-baseline justify-between gap-2 rounded-md px-2 py-1 text-left hover:bg-paper aria-pressed:bg-act-pale"
              >
                <span className="min-w-0 truncate">{each.way === "bare" ? "Bare sheet" : each.name ? `${each.name}, print` : "Print"} {each.id}, sheet {each.sheet + 1}{each.current ? "" : ", older version"}</span>
                <span className="shrink-0 text-[12px] text-quiet">{each.id === going?.print_id ? "on the plotter" : cutAlready.has(each.id) ? "cut" : "not cut"}</span>
              </button>
            </li>
          ))}
        </ul>
      </Section>
      <Section title="Cut">
        <Reading label="Plotter" words>{plotterName}</Reading>
        {totals.data && <Totals plan={totals.data} />}
        {sheetHere && <PrintedOnly number={print.sheet} />}
        <div className="flex flex-wrap items-center gap-x-1.5 gap-y-1 px-3.5 py-1.5">
          {waits && (
            <Button kind={run.state === "paused" ? "act" : "plain"} onClick={() => void pause()}>
              {run.state === "paused" ? "Resume cutting" : "Pause after this line"}
            </Button>
          )}
          {busy ? linesLeft && run.state !== "held" && (
            <Button kind="stop" onClick={() => void cancel()}>{run.state === "placing" ? "Cancel this cut" : "Cancel after this line"}</Button>
          ) : (
            <Button kind={run?.state === "done" ? "plain" : "act"} onClick={() => (run?.state === "done" ? setAgain(true) : void start())}>
              {run === undefined ? "Load and cut" : run.state === "done" ? "Cut it again …" : "Load and cut again"}
            </Button>
          )}
          {!busy && run?.state !== "done" && <span className="text-[12.5px] text-quiet">key C</span>}
          {waits && <span className="text-[12.5px] text-quiet">key P pauses and resumes; keep clear of the carriage</span>}
        </div>
        {run && <Progress run={run} />}
        {run && <GoOn run={run} isLast={job.runs.find((each) => each.print_id === print.id)?.id === run.id} onDone={refresh} />}
        {run?.state === "held" && <Held run={run} totals={totals.data?.processes ?? []} chosen={clings} onDone={() => setClings(new Set())} />}
        {run?.state === "done" && next && next.id !== print.id && !cutAlready.has(next.id) && (
          <p className="px-3.5 pb-1.5">
            <Button kind="act" onClick={() => setChosen(next.id)}>On to print {next.id}{next.name ? `, ${next.name}` : ""}</Button>
          </p>
        )}
        {!bare && !busy && run?.state !== "done" && <FilmOverPrint print={print} />}
        {!bare && !busy && <Toggle label="Keep the sheet loaded, to check a corner" on={hold} onChange={setHold} />}
        {!bare && !busy && <LoadingCard />}
      </Section>
      {totals.data && !busy && <SettingsSection print={print} processes={totals.data.processes.map((each) => each.process)} onTest={setTesting} />}
      <Dialog
        open={again}
        onClose={() => setAgain(false)}
        title="This sheet is cut already"
        description="Its marks are sensed again, then every line is cut a second time. Loose stickers may be dragged along."
      >
        <div className="flex justify-end gap-2 p-4">
          <Button onClick={() => setAgain(false)}>Cancel</Button>
          <Button
            kind="stop"
            onClick={() => {
              setAgain(false);
              void start();
            }}
          >
            Cut it a second time
          </Button>
        </div>
      </Dialog>
      {run?.marks && run.marks.length > 0 && <SeenMarks run={run} />}
      {run?.registration && !bare && <Registration values={run.registration} marks={sheets.marks_told} />}
    </Station>
  );
}

/** What is on the sheet and is not cut, so that it is seen before the blade moves. */
function PrintedOnly({ number }: { number: number }) {
  const { job } = useJob();
  const places = job.sheets.sheets[number]?.placements ?? [];
  const kept = (job.recipe.designs ?? [])
    .filter((design) => design.lines?.own === "none")
    .map((design) => ({ name: design.name, many: places.filter((place) => place.design === design.id).length }))
    .filter(({ many }) => many > 0);
  if (!kept.length) return null;
  return <Reading label="Printed, not cut" words>{kept.map(({ name, many }) => `${many} × ${name}`).join(", ")}</Reading>;
}

function Progress({ run }: { run: Run }) {
  const bad = run.state === "stopped";
  return (
    <div className="px-3.5 pb-1.5" role="status" aria-live="polite">
      <div className="flex items-baseline justify-between">
        <b className={bad ? "text-stop" : run.state === "done" ? "text-good" : run.state === "cancelled" ? "text-look" : ""}>{WORDS[run.state]}</b>
        <span className="figure text-[12.5px]">
          {run.lines_total > 0 && `line ${run.lines_done} of ${run.lines_total}`}
          {run.state === "cutting" && run.predicted_s != null && run.share < 1 && ` · ${clock(run.predicted_s * (1 - run.share))} left`}
        </span>
      </div>
      <div
        role="progressbar"
        aria-label="Share of the cut"
        aria-valuemin={0}
        aria-valuemax={100}
        aria-valuenow={Math.round(run.share * 100)}
        className="my-1 h-2 overflow-hidden rounded bg-[#cfd9d4]"
      >
        <div className="h-full rounded bg-kiss transition-[width]" style={{ width: `${run.state === "done" ? 100 : run.share * 100}%` }} />
      </div>
      {run.notice && <p className="text-look">{run.notice}</p>}
      {run.message && <p className={bad ? "text-stop" : "text-quiet"}>{run.message}</p>}
      {run.state === "done" && run.seconds != null && <p className="text-quiet">{run.slips ? "The sheet is cut and measured." : "The sheet is cut."}</p>}
    </div>
  );
}

/** Each mark as the sensor saw it, with the fit drawn. */
function SeenMarks({ run }: { run: Run }) {
  const { length } = useUnits();
  const marks = run.marks ?? [];
  return (
    <Section title="Marks as the sensor saw them">
      <ul className="grid grid-cols-2 gap-2 px-2.5">
        {marks.slice(0, 12).map((mark, number) => (
          <li key={mark.name} className="flex items-center gap-2 rounded-md border border-rule bg-paper p-1.5">
            <img src={urlOf("get_mark_picture", { run_id: run.id, mark: number })} alt={`${mark.name} mark as it was seen`} className="size-14 shrink-0 rounded" />
            <span className="min-w-0 text-[12.5px] leading-tight">
              <span className="block text-quiet">{mark.name}</span>
              <b className={`block ${mark.verdict === "clear" ? "font-normal" : mark.verdict === "weak" ? "text-look" : "text-stop"}`}>{mark.verdict}</b>
              {mark.off_mm != null && <span className="figure block">{length(mark.off_mm, 3)} off</span>}
              {mark.cause && <span className="block text-look">{mark.cause}</span>}
            </span>
          </li>
        ))}
      </ul>
    </Section>
  );
}

function Registration({ values, marks }: { values: Schemas["RegistrationView"]; marks: string }) {
  const { length } = useUnits();
  const signed = (n: number, digits: number) => `${n >= 0 ? "+" : "−"}${Math.abs(n).toFixed(digits)}`;
  return (
    <Section title={`Registration from ${marks}`}>
      <Reading label="Largest residual">{length(values.residual_mm, 3)}</Reading>
      <Reading label="Allowed">{length(0.15)}</Reading>
      <Reading label="Scale across">{signed(values.scale_x_pct, 3)} %</Reading>
      <Reading label="Scale along">{signed(values.scale_y_pct, 3)} %</Reading>
      <Reading label="Turn">{signed(values.turn_deg, 2)}°</Reading>
      <Reading label="Skew">{signed(values.skew_deg, 3)}°</Reading>
    </Section>
  );
}
