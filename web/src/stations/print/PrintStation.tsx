import { Download } from "lucide-react";
import { useEffect, useState } from "react";
import { Link } from "react-router";

import { call, type Print, urlOf } from "../../api/client";
import { Paper } from "../../bench/drawing";
import { LightTable } from "../../bench/LightTable";
import { ART, FILM, MARKS } from "../../bench/LineKey";
import { useJob } from "../../job/job";
import { STATIONS } from "../../job/stubs";
import { useIsSimulated } from "../../job/useShop";
import { useAsk } from "../../ui/Ask";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { useNotice } from "../../ui/Notice";
import { Fold, OneOpen } from "../../ui/Fold";
import { Reading, Row, Section } from "../../ui/Reading";
import { Findings, needLooking } from "../Findings";
import { JobSheet } from "../JobSheet";
import { SheetPager } from "../SheetPager";
import { EmptyTable, Station } from "../Station";
import { CardSection, useCard } from "./CardSection";
import { Batch, CopiesSection, isOpen, newestBatch } from "./CopiesSection";
import { HeadSection, useHead } from "./HeadSection";
import { PlatesSection } from "./PlatesSection";
import { ScaleSection } from "./ScaleSection";
import type { Way } from "./way";

const LAYERS = [ART, MARKS, FILM];
const HIDDEN_AT_FIRST = [FILM.id];

const isUnderWay = (print: Print) => print.state === "queued" || print.state === "printing";

const WAYS = [
  { value: "link" as const, label: "Printer link", title: "Perisect sends it to the printer" },
  { value: "own" as const, label: "My print dialog", title: "You print the file yourself" },
  { value: "shop" as const, label: "Print shop", title: "Somebody else prints it" },
];
const TAKE: Record<Exclude<Way, "link">, string> = { own: "Open the file of sheet", shop: "Package of sheet" };
const fileOf = (print: Print) => urlOf(print.way === "shop" ? "get_package" : "get_handed_out", { print_id: print.id });

/** A sheet that was handed out: whether it is on paper is for a person to say. */
function HandedOut({ print }: { print: Print }) {
  const tell = useNotice();
  const say = (key: "post_printed" | "post_cancel_print") => void call(key, { path: { print_id: print.id } }).catch(tell);
  return (
    <div role="status" className="mx-3.5 mb-1.5 rounded-md border border-rule bg-paper px-2.5 py-1.5">
      <p>
        {print.way === "own"
          ? "Print it at 100 %, without fit to page, on the sticker face. Then say how it went."
          : "The package holds the file, a proof and what to ask for. When the sheet is back, measure the marks as the order says."}{" "}
        <a className="text-act underline" href={fileOf(print)} {...(print.way === "own" ? { target: "_blank", rel: "noreferrer" } : { download: true })}>
          {print.way === "own" ? "The file again" : "The package again"}
        </a>
      </p>
      <p className="flex flex-wrap gap-1.5 pt-1.5">
        <Button kind="act" onClick={() => say("post_printed")}>{print.way === "own" ? "It is printed" : "It came back"}</Button>
        <Button onClick={() => say("post_cancel_print")}>It was not printed</Button>
      </p>
    </div>
  );
}

/** A print in its queue: what it waits for, and a way out. */
function Waiting({ print }: { print: Print }) {
  const tell = useNotice();
  return (
    <p role="status" className="flex items-center justify-between gap-2 px-3.5 pb-1 text-quiet">
      {print.waiting}
      <Button kind="stop" onClick={() => void call("post_cancel_print", { path: { print_id: print.id } }).catch(tell)}>Remove from the queue</Button>
    </p>
  );
}

const SPOILED = ["poor print", "thrown away", "cut twice", "wrong side"] as const;

/** A printed sheet that is of no use any more: asked for its reason, and taken back by undo. */
function Spoiled({ print }: { print: Print }) {
  const { did, refresh } = useJob();
  const tell = useNotice();
  const ask = useAsk();
  const spoil = async () => {
    const why = await ask({
      title: `Throw away print ${print.id}, sheet ${print.sheet + 1}?`,
      detail: "Its stock is booked as waste, and the sheet must be printed again. Undo brings it back until you do.",
      acts: SPOILED.map((each) => ({ value: each, label: `${each[0]!.toUpperCase()}${each.slice(1)}`, kind: "stop" as const })),
      cancel: "Keep the sheet",
    });
    const reason = SPOILED.find((each) => each === why);
    if (!reason) return;
    await call("post_spoiled", { path: { print_id: print.id }, body: { why: reason } })
      .then(() => did({ kind: "act", label: `Print ${print.id} spoiled`, act: { do: "spoiled", print: print.id } }))
      .catch(tell);
    refresh();
  };
  return <Button onClick={() => void spoil()}>Spoiled …</Button>;
}

const HANGS_MS = 8000;

/** A print that the printer has: where it does not end, a person stops waiting for it. */
function AtPrinter({ print }: { print: Print }) {
  const tell = useNotice();
  const ask = useAsk();
  const [hangs, setHangs] = useState(false);
  useEffect(() => {
    const timer = window.setTimeout(() => setHangs(true), HANGS_MS);
    return () => clearTimeout(timer);
  }, []);
  if (!hangs) return null;
  const giveUp = async () => {
    const answer = await ask({
      title: `Stop waiting for print ${print.id}?`,
      detail: "The printer is not stopped. Look at it, then say here whether the sheet came out.",
      acts: [{ value: "stop", label: "Stop waiting", kind: "stop" }],
      cancel: "Go on waiting",
    });
    if (answer) await call("post_give_up", { path: { print_id: print.id } }).catch(tell);
  };
  return (
    <p role="status" className="flex items-center justify-between gap-2 px-3.5 pb-1 text-quiet">
      The printer still has it.
      <Button onClick={() => void giveUp()}>Stop waiting …</Button>
    </p>
  );
}

/** A sheet of which nobody knows whether it came out. */
function Unknown({ print }: { print: Print }) {
  const tell = useNotice();
  const say = (key: "post_printed" | "post_not_printed") => void call(key, { path: { print_id: print.id } }).catch(tell);
  return (
    <div role="alert" className="mx-3.5 mb-1.5 rounded-md border border-look bg-paper px-2.5 py-1.5">
      <p className="text-look">{print.message}</p>
      <p className="flex flex-wrap gap-1.5 pt-1.5">
        <Button kind="act" onClick={() => say("post_printed")}>It came out</Button>
        <Button onClick={() => say("post_not_printed")}>It did not come out</Button>
      </p>
    </div>
  );
}

/** Where card, head and job disagree, before a sheet is spent. */
function ToLookAt() {
  const { view } = useCard();
  const head = useHead();
  const findings = [...(view?.findings ?? []), ...(head?.findings ?? [])];
  if (!findings.length) return null;
  return <Findings title="Before a sheet is spent" findings={findings} />;
}

/** What the stations before have to say still, where paper has not been spent on it yet. */
function StillOpen() {
  const { job } = useJob();
  const open = STATIONS.slice(0, 3)
    .map(({ path, name }) => ({ path, name, many: needLooking(job.findings).filter((each) => each.station === path).length }))
    .filter(({ many }) => many > 0);
  if (!open.length) return null;
  return (
    <p className="px-3.5 pb-1.5 text-look">
      Still to look at:{" "}
      {open.map(({ path, name, many }, n) => (
        <span key={path}>
          {n > 0 && ", "}
          <Link to={`/jobs/${job.id}/${path}`} className="underline underline-offset-2">{`${many} at ${name}`}</Link>
        </span>
      ))}
    </p>
  );
}

/** Film over the sheet: between the marks, which stay bare. */
function FilmOver() {
  const box = useCard().view?.film_box_mm;
  if (!box) return null;
  const [left, top, right, bottom] = box;
  return (
    <rect x={left} y={top} width={right - left} height={bottom - top} fill="#7a6bb0" fillOpacity={0.12} stroke="#7a6bb0" strokeDasharray="6 3" vectorEffect="non-scaling-stroke">
      <title>Film with the marks left bare</title>
    </rect>
  );
}

export function PrintStation() {
  const { job, refresh, afterChanges, did } = useJob();
  const tell = useNotice();
  const [page, setPage] = useState(0);
  const [view, setView] = useState<"drawn" | "printed">("drawn");
  const [asked, setAsked] = useState(false);
  const [chosen, setWay] = useState<Way | null>(null);
  const way = chosen ?? job.way;
  const { sheets } = job;
  const sheet = job.recipe.sheet;
  const simulated = useIsSimulated()("printers", sheet?.printer?.id);
  const printerName = sheet?.printer?.name ?? "Desk printer";
  const number = Math.min(page, Math.max(0, sheets.sheets.length - 1));
  const mine = job.prints.filter((each) => each.current && each.sheet === number);
  const printed = mine.find((each) => each.state === "printed");
  const under = mine.filter(isUnderWay);
  const printing = asked || (way === "link" && under.some((each) => each.state === "printing" || !each.waiting));
  const out = mine.filter((each) => each.state === "out" && each.copies === 1);
  const batch = newestBatch(job.prints);
  const failed = mine[0]?.state === "failed" ? mine[0] : undefined;
  const older = job.prints.filter((each) => !each.current && each.state === "printed").length;

  if (sheet?.cut_only)
    return (
      <Station table={<EmptyTable>This job is cut from bare stock, and nothing of it is printed. To print it, choose “Print and cut” at Sheet, under Stock and filling.</EmptyTable>} next={{ label: "Go to the plotter", station: 5 }}>
        <Section title="Print"><p className="px-3.5 text-quiet">This job is cut only.</p></Section>
      </Station>
    );
  if (sheets.sheets.length === 0)
    return (
      <Station table={<EmptyTable>There is no filled sheet to print yet. Fill one at station 3.</EmptyTable>} next={{ label: "Go to the sheet", station: 3 }}>
        <Section title="Print"><p className="px-3.5 text-quiet">Nothing to print yet.</p></Section>
      </Station>
    );

  const standing = new Set(job.prints.filter((each) => each.current && ["queued", "printing", "unknown", "out", "printed"].includes(each.state)).map((each) => each.sheet));
  const missing = sheets.sheets.length - standing.size;
  const rest = () =>
    void afterChanges(() => call("post_rest_of_prints", { path: { job_id: job.id } }))
      .then(() => did({ kind: "fixed", label: "Print of the other sheets" }))
      .catch(tell)
      .finally(refresh);
  const print = async () => {
    setAsked(true);
    // A page opened after the answer would be held back as one that nobody asked for.
    const page = way === "own" ? window.open("", "_blank") : null;
    try {
      const made = await afterChanges(() => call("post_print", { path: { job_id: job.id }, body: { sheet: number + 1, way } }));
      did({ kind: "fixed", label: `Print of sheet ${number + 1}` });
      if (page) page.location.href = fileOf(made);
      if (way === "shop") window.location.assign(fileOf(made));
      setView("printed");
    } catch (problem) {
      page?.close();
      tell(problem);
    }
    setAsked(false);
    refresh();
  };
  const file = (kind: string) => `/api/jobs/${job.id}/sheets/${number + 1}/${kind}`;

  return (
    <Station
      next={printed && { label: "Go to the plotter", station: 5 }}
      table={
        <LightTable
          box={{ x: 0, y: 0, width: sheets.width_mm, height: sheets.height_mm }}
          subject={`print ${sheets.stock}`}
          label={view === "printed" && printed ? `print ${printed.id} · sheet ${number + 1}` : `${sheets.stock} · sheet ${number + 1} as drawn`}
          layers={LAYERS}
          hiddenAtFirst={HIDDEN_AT_FIRST}
        >
          {(shown) => (
            <>
              {view === "printed" && printed ? (
                <>
                  <Paper width={sheets.width_mm} height={sheets.height_mm} />
                  <image href={urlOf("get_printed", { print_id: printed.id })} width={sheets.width_mm} height={sheets.height_mm} preserveAspectRatio="none" />
                </>
              ) : (
                <JobSheet number={number} shown={shown} />
              )}
              {shown.has(FILM.id) && <FilmOver />}
            </>
          )}
        </LightTable>
      }
    >
      <Section title="Print">
        <SheetPager number={number} count={sheets.sheets.length} onTurn={setPage} />
        {way === "link" && <Reading label="Printer" words>{printerName}{simulated ? " (simulated)" : ""}</Reading>}
        <Row>
          <Choice label="Ways to print" value={way} options={WAYS} onChange={setWay} />
        </Row>
        <div className="flex items-center gap-3 px-3.5 py-1.5">
          <Button kind={printed || out.length ? "plain" : "act"} disabled={printing} onClick={() => void print()}>
            {way !== "link" ? `${TAKE[way]} ${number + 1}` : printing ? "Printing …" : printed ? `Print sheet ${number + 1} again` : `Print sheet ${number + 1}`}
          </Button>
          {printed && <span className="text-good">printed</span>}
        </div>
        {((way === "link" && missing > 1) || printed) && (
          <p className="flex flex-wrap gap-1.5 px-3.5 pb-1">
            {way === "link" && missing > 1 && <Button onClick={rest}>{missing === sheets.sheets.length ? `Print all ${missing} sheets` : `Print the other ${missing} sheets`}</Button>}
            {printed && (
              <Spoiled print={printed} />
            )}
          </p>
        )}
        {!printed && <StillOpen />}
        {batch && isOpen(batch) && <Batch prints={batch} />}
        {out.map((each) => <HandedOut key={each.id} print={each} />)}
        {under.map((each) => each.copies === 1 && each.waiting && <Waiting key={each.id} print={each} />)}
        {under.map((each) => each.state === "printing" && <AtPrinter key={`at ${each.id}`} print={each} />)}
        {mine.map((each) => each.state === "unknown" && <Unknown key={`unknown ${each.id}`} print={each} />)}
        {failed && <p role="alert" className="px-3.5 pb-1 text-stop">{failed.message}</p>}
        {printed && (
          <Row>
            <span className="text-quiet">On the light table</span>
            <Choice
              label="On the light table"
              value={view}
              options={[{ value: "drawn", label: "As drawn" }, { value: "printed", label: "As printed" }]}
              onChange={setView}
            />
          </Row>
        )}
        {older > 0 && <p className="px-3.5 text-[12.5px] text-quiet">{older} older {older === 1 ? "print is" : "prints are"} of a version before this one.</p>}
      </Section>
      <ToLookAt />
      <OneOpen>
      <CardSection way={way} />
      <CopiesSection way={way} />
      <HeadSection />
      <ScaleSection />
      <PlatesSection number={number} />
      <Fold title="Files of this sheet" told="PDF, SVG, DXF, HPGL">
        <p className="px-3.5 text-[12.5px] text-quiet">The print file holds art and marks and no cut line; the cut files hold the lines in the same coordinates.</p>
        <div className="flex flex-wrap gap-2 px-3.5 py-2">
          {[["print.pdf", "Print PDF"], ["cut.svg", "Cut SVG"], ["cut.dxf", "Cut DXF"], ["cut.splines.dxf", "Cut DXF, as curves"], ["cut.hpgl", "Cut HPGL"], ["cut.pdf", "Cut PDF"]].map(([kind, label]) => (
            <a key={kind} href={file(kind!)} download className="inline-flex items-center gap-1.5 rounded-md border border-rule bg-paper px-2.5 py-1 text-[13px] hover:border-act">
              <Download size={14} aria-hidden /> {label}
            </a>
          ))}
        </div>
      </Fold>
      </OneOpen>
    </Station>
  );
}
