import { Upload as UploadIcon } from "lucide-react";
import { useCallback, useEffect, useState } from "react";

import { call, type Split } from "../../api/client";
import { useJob } from "../../job/job";
import { useUploads } from "../../job/uploads";
import { Button } from "../../ui/Button";
import { useNotice } from "../../ui/Notice";
import { Findings } from "../Findings";
import { Section } from "../../ui/Reading";
import { Pieces } from "../Pieces";
import { EmptyTable, Station } from "../Station";
import { AlsoAtSizes } from "./AlsoAtSizes";
import { ArtTable } from "./ArtTable";
import { BackgroundSection } from "./BackgroundSection";
import { CleanSection } from "./CleanSection";
import { ColoursSection } from "./ColoursSection";
import type { Rect } from "./crop";
import { Compose } from "./compose/Compose";
import { newWords, type Part } from "./compose/parts";
import { CropSection } from "./CropSection";
import { PageSection, useTriedPieces } from "./PageSection";
import { PdfPages } from "./PdfPages";
import { FromShelf } from "./FromShelf";
import { isMended } from "./places";
import { RightsSection } from "./RightsSection";
import { ShapeSection } from "./ShapeSection";
import { SizeSection } from "./SizeSection";
import { SubjectTable } from "./SubjectTable";
import { ToneSection } from "./ToneSection";
import type { Tool } from "./tools";
import { ChoosePictures, OnTheWay } from "./Uploading";
import { useMend } from "./useMend";

const NO_TOOL: Tool = { kind: "none" };

export function ArtworkStation() {
  const { job, selected, facts } = useJob();
  const { uploads } = useUploads();
  const [tool, setTool] = useState<Tool>(NO_TOOL);
  const [brushMm, setBrushMm] = useState(3);
  const [tried, setTried] = useState<number | null>(null);
  const [split, setSplit] = useState<Split | null>(null);
  const [toned, setToned] = useState<string | null>(null);
  const [cutting, setCutting] = useState(false);
  const [composing, setComposing] = useState<Part[] | null>(null);
  const tell = useNotice();
  const [crop, setCrop] = useState<{ rect: Rect; aspect: number | null } | null>(null);
  useEffect(() => setTried(null), [job.revision, selected?.id]);
  useEffect(() => {
    setTool(NO_TOOL);
    setSplit(null);
    setToned(null);
    setCrop(null);
    // A brush to begin with suits the piece's size; it stays as it is when the size changes.
    setBrushMm(Math.max(0.4, Math.round((selected?.longest_mm ?? 60) / 2.5) / 10));
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [selected?.id]);
  useEffect(() => {
    const away = (event: KeyboardEvent) => event.key === "Escape" && setTool(NO_TOOL);
    window.addEventListener("keydown", away);
    return () => window.removeEventListener("keydown", away);
  }, []);
  const compose = async () => {
    if (!selected) return setComposing([newWords("Words")]);
    try {
      const known = await call("get_composition", { path: { sha256: selected.artwork } });
      const mended = selected.mend && isMended(selected.mend);
      // A piece of several things is opened as what it was made of; any other picture is the first part.
      setComposing(known && !mended ? (known.parts as Part[]) : [await call("get_part", { path: { job_id: job.id, design: selected.id } }), newWords("Words")]);
    } catch (problem) {
      tell(problem);
    }
  };
  const onRect = useCallback((rect: Rect) => setCrop((before) => ({ rect, aspect: before?.aspect ?? null })), []);
  const found = useTriedPieces(selected, facts, split);
  if (cutting && selected && facts) return <SubjectTable design={selected} facts={facts} onBack={() => setCutting(false)} />;
  if (composing) return <Compose design={selected} begun={composing} onBack={() => setComposing(null)} />;
  const mine = job.findings.filter((each) => each.station === "artwork" && each.design === selected?.id);
  const pieces = found ?? facts?.artwork.pieces ?? [];
  const isPage = pieces.length > 1 && !selected?.mend?.frame && !selected?.mend?.backing;

  return (
    <Station
      next={selected && { label: "Draw the cut lines", station: 2 }}
      table={
        selected && facts ? (
          <ArtTable
            design={selected}
            facts={facts}
            tool={tool}
            brushMm={brushMm}
            tried={tried}
            toned={toned}
            boxed={split || (isPage && !selected.mend?.drawings.length) ? pieces : null}
            rect={crop?.rect ?? null}
            aspect={crop?.aspect ?? null}
            onRect={onRect}
          />
        ) : (
          <Empty reading={uploads.some((each) => !each.problem)} />
        )
      }
    >
      <Section title="Pictures">
        <div className="flex flex-wrap gap-2 px-3.5 py-1"><ChoosePictures /><FromShelf /><Button onClick={() => void compose()}>{selected ? "Words and parts …" : "Words …"}</Button></div>
        {uploads.length > 0 && <OnTheWay uploads={uploads} />}
        <Pieces />
      </Section>
      {selected && facts && (
        <div key={selected.id}>
          <Findings title="Before lines are drawn" findings={mine} />
          <SizeSection design={selected} facts={facts} />
          <AlsoAtSizes key={`sizes ${selected.id}`} design={selected} />
          {facts.artwork.pages > 1 && <PdfPages design={selected} facts={facts} />}
          <BackgroundSection design={selected} facts={facts} tool={tool} setTool={setTool} onTry={setTried} />
          {["photograph", "plain"].includes(facts.artwork.verdict) && (
            <p className="px-3.5 py-1.5"><Button onClick={() => setCutting(true)}>{selected.mend?.subject ? "Edit the cut-out …" : "Cut out a subject …"}</Button></p>
          )}
          {isPage && <PageSection design={selected} facts={facts} pieces={pieces} onTry={setSplit} />}
          <ShapeSection design={selected} facts={facts} />
          <CropSection
            design={selected}
            facts={facts}
            tool={tool}
            setTool={setTool}
            rect={crop?.rect ?? null}
            setRect={(rect, aspect) => setCrop(rect && { rect, aspect })}
          />
          <CleanSection design={selected} facts={facts} tool={tool} setTool={setTool} brushMm={brushMm} setBrushMm={setBrushMm} />
          <ColoursSection key={`colours ${selected.id}`} design={selected} facts={facts} />
          <ToneSection facts={facts} onShow={setToned} />
          <RightsSection design={selected} />
          {isMended(selected.mend) && <AsItCame />}
        </div>
      )}
    </Station>
  );
}

function AsItCame() {
  const { selected } = useJob();
  const { mend, keep } = useMend(selected!);
  return (
    <p className="px-3.5 py-2.5">
      <Button
        kind="quiet"
        onClick={() =>
          void keep("Original picture", {
            background: "as_is", knock_out: [], keep: [], picked: [], strokes: [], specks_px2: 0, specks_kept: [], specks_gone: [],
            crop: null, frame: null, backing: null, enlarge: 1, subject: null, recolour: null, drawings: mend.drawings,
          })
        }
      >
        Restore the original picture
      </Button>
    </p>
  );
}

function Empty({ reading }: { reading: boolean }) {
  return (
    <EmptyTable>
      <div className="rounded-xl border-2 border-dashed border-rule bg-card px-10 py-12">
        <UploadIcon className="mx-auto mb-3 text-act" aria-hidden />
        <p className="pb-1 font-head text-[18px] font-semibold text-ink">Drop your pictures here</p>
        <p className="pb-4">PNG, JPEG, WebP, TIFF, SVG or PDF, one or many at once, or paste one. Perisect checks the background and finds the outline. A die that you already have, as DXF or SVG, is cut as drawn.</p>
        <ChoosePictures kind="act" />
        {reading && <p className="pt-3" role="status">Reading …</p>}
      </div>
    </EmptyTable>
  );
}
