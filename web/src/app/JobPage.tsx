import { type DragEvent, Suspense, useEffect, useState } from "react";
import { Link, Navigate, useNavigate, useParams } from "react-router";

import { Docket } from "./Docket";
import { STATIONS } from "../job/stubs";
import { useUnits } from "../ui/units";
import { Header } from "./Header";
import { SETTINGS } from "./settings";
import { Steps } from "./Steps";
import { useFileDrop } from "../ui/fileDrop";
import { wantSection } from "../ui/Fold";
import { JobProvider, useJob } from "../job/job";
import { useJobs } from "../job/jobs";
import { useKeys } from "../ui/keys";
import { loaded, whenAtRest } from "./loaded";
import { Nesting } from "./Nesting";
import { type Action, Palette } from "./Palette";
import { UploadsProvider, useUploads } from "../job/uploads";
import { useShop } from "../job/useShop";

/** Each station's code is loaded when it is opened, those that are not once the page is at rest. */
const SCREENS = {
  artwork: loaded(() => import("../stations/artwork/ArtworkStation").then((file) => file.ArtworkStation)),
  lines: loaded(() => import("../stations/lines/LinesStation").then((file) => file.LinesStation)),
  sheet: loaded(() => import("../stations/sheet/SheetStation").then((file) => file.SheetStation)),
  print: loaded(() => import("../stations/print/PrintStation").then((file) => file.PrintStation)),
  cut: loaded(() => import("../stations/cut/CutStation").then((file) => file.CutStation)),
  log: loaded(() => import("../stations/log/LogStation").then((file) => file.LogStation)),
};

export function JobPage() {
  const { id } = useParams();
  const number = Number(id);
  const missing = (
    <p className="p-8">
      There is no job {id}. <Link to="/" className="text-act underline">Choose one from the list of jobs.</Link>
    </p>
  );
  if (!Number.isInteger(number)) return missing;
  return (
    <JobProvider key={number} id={number} missing={missing}>
      <UploadsProvider>
        <Bench />
      </UploadsProvider>
    </JobProvider>
  );
}

function Bench() {
  const { station } = useParams();
  const { job, undo, redo } = useJob();
  const { add } = useUploads();
  const navigate = useNavigate();
  const [finding, setFinding] = useState(false);
  const [over, setOver] = useState(false);
  const actions = useActions();
  const go = (index: number) => void navigate(`/jobs/${job.id}/${STATIONS[index]!.path}`);
  useKeys({
    ...Object.fromEntries(STATIONS.map((_, index) => [String(index + 1), () => go(index)])),
    "ctrl+z": () => undo?.act(),
    "ctrl+shift+z": () => redo?.act(),
    "ctrl+y": () => redo?.act(),
    "ctrl+k": () => setFinding(true),
  });
  useFileDrop((files) => {
    setOver(false);
    if (station !== "artwork") go(0);
    add(files);
  }, job.id);
  useEffect(() => {
    const paste = (event: ClipboardEvent) => {
      const files = [...(event.clipboardData?.files ?? [])];
      if (files.length === 0) return;
      event.preventDefault();
      add(files);
      void navigate(`/jobs/${job.id}/artwork`);
    };
    window.addEventListener("paste", paste);
    return () => window.removeEventListener("paste", paste);
  }, [add, navigate, job.id]);
  useEffect(() => whenAtRest(() => Object.values(SCREENS).forEach((screen) => screen.preload())), []);
  const Screen = SCREENS[station as keyof typeof SCREENS];
  if (!Screen) return <Navigate to={`/jobs/${job.id}/artwork`} replace />;
  const dragged = (event: DragEvent) => event.dataTransfer.types.includes("Files");
  const kept = new Date(job.kept_at).toLocaleTimeString(undefined, { hour: "2-digit", minute: "2-digit", hourCycle: "h23" });

  return (
    <div
      className="grid h-full grid-rows-[auto_1fr]"
      onDragOver={(event) => dragged(event) && setOver(true)}
      onDragLeave={(event) => event.currentTarget === event.target && setOver(false)}
      onDrop={() => setOver(false)}
    >
      <Header
        title={job.title}
        kept={<Steps kept={kept} />}
        walk={{ undo, redo }}
        onFind={() => setFinding(true)}
      />
      <div className="grid min-h-0 grid-cols-[220px_minmax(0,1fr)_300px] p-3.5 min-[1200px]:grid-cols-[236px_minmax(0,1fr)_312px]">
        <Docket />
        <Suspense fallback={null}><Screen /></Suspense>
      </div>
      {over && (
        <div className="pointer-events-none fixed inset-3 z-40 grid place-items-center rounded-xl border-[3px] border-dashed border-act bg-act-pale/80">
          <p className="font-head text-[22px] font-semibold text-act">Drop to add to this job</p>
        </div>
      )}
      {["sheet", "print"].includes(station ?? "") && <Nesting />}
      <Palette open={finding} actions={actions} onClose={() => setFinding(false)} />
    </div>
  );
}

/** Everything Ctrl K finds in a job. */
function useActions(): Action[] {
  const { job, change, equip, undo, redo, select } = useJob();
  const { unit, setUnit } = useUnits();
  const { begin } = useJobs();
  const shop = useShop();
  const navigate = useNavigate();
  const at = (path: string) => void navigate(`/jobs/${job.id}/${path}`);
  const sheet = (label: string, changes: Partial<NonNullable<typeof job.recipe.sheet>>) => () => {
    at("sheet");
    void change(label, (recipe) => ({ ...recipe, sheet: { ...recipe.sheet!, ...changes } }));
  };
  return [
    ...STATIONS.map((each, index) => ({ label: each.name, hint: `station, key ${index + 1}`, act: () => at(each.path) })),
    ...(undo ? [{ label: "Undo", hint: undo.label, act: undo.act }] : []),
    ...(redo ? [{ label: "Redo", hint: redo.label, act: redo.act }] : []),
    ...(shop?.stocks ?? []).map((paper) => ({ label: `Stock: ${paper.name}`, hint: "sheet", act: () => { at("sheet"); equip({ stock: paper.id }); } })),
    { label: "Stocks and machines", hint: "shop", act: () => void navigate("/shop") },
    { label: "Fill a sheet", hint: "sheet", act: sheet("Fill a sheet", { fill: true }) },
    { label: "Copies by number", hint: "sheet", act: sheet("Copies by number", { fill: false }) },
    { label: "Rows and columns", hint: "sheet", act: sheet("Rows and columns", { method: "rows" }) },
    { label: "Nest", hint: "sheet", act: sheet("Nest", { method: "nest" }) },
    { label: `Show lengths in ${unit === "mm" ? "inches" : "millimetres"}`, hint: "setting", act: () => setUnit(unit === "mm" ? "in" : "mm") },
    ...SETTINGS.map(({ label, path, station, section, words }) => ({
      label,
      words,
      hint: `setting, station ${station}`,
      act: () => {
        at(path);
        wantSection(section ?? label);
      },
    })),
    ...(job.recipe.designs ?? []).map((design) => ({
      label: design.name,
      hint: "piece",
      act: () => {
        select(design.id);
        at("lines");
      },
    })),
    { label: "New job", act: () => void begin() },
    { label: "All jobs", act: () => void navigate("/") },
  ];
}
