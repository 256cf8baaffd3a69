import { Upload as UploadIcon, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";

import { trialUrl } from "../api/client";

import { ArtImage, useLines } from "../bench/drawing";
import { LightTable } from "../bench/LightTable";
import { ART } from "../bench/LineKey";
import { useJob } from "../shop/job";
import { type Upload, useUploads } from "../shop/uploads";
import { Button } from "../ui/Button";
import { Choice } from "../ui/Choice";
import { Findings, needLooking } from "../ui/Findings";
import { LengthField } from "../ui/LengthField";
import { Reading, Row, Section } from "../ui/Reading";
import { useUnits } from "../units";
import { BackgroundSection } from "./BackgroundSection";
import { Pieces } from "./Pieces";
import { SCOPES, useScope, withDesigns } from "./scope";
import { Silhouette } from "./Silhouette";
import { EmptyTable, Station } from "./Station";

const LAYERS = [ART, { id: "outline", label: "Outline" }, { id: "silhouette", label: "Silhouette" }];

const HIDDEN = ["silhouette"];

export function ArtworkStation() {
  const { job, selected, facts, change } = useJob();
  const { length, size } = useUnits();
  const { uploads } = useUploads();
  const [scope, setScope] = useScope("one");
  const [tried, setTried] = useState<number | null>(null);
  useEffect(() => setTried(null), [job.revision, selected?.id]);
  const many = (job.recipe.designs ?? []).length > 1;
  const findings = job.findings.filter((each) => each.station === "artwork");
  const mine = findings.filter((each) => each.design === selected?.id);

  return (
    <Station table={<Table tried={tried} />} next={selected && { label: "Draw the cut lines", station: 2 }}>
      <Section title="Pictures">
        <div className="px-3.5 py-1"><Choose /></div>
        {uploads.length > 0 && <Uploading uploads={uploads} />}
        <Pieces />
      </Section>
      {selected && <Findings title="Before lines are drawn" findings={mine} />}
      {selected && facts && (
        <Section title={selected.name}>
          {many && (
            <Row>
              <span className="text-quiet">Size for</span>
              <Choice label="Size for" value={scope} options={SCOPES} onChange={setScope} />
            </Row>
          )}
          <LengthField
            label="Longest side"
            mm={selected.longest_mm ?? 60}
            min={5}
            max={400}
            reach={200}
            step={0.5}
            onKeep={(mm) =>
              void change(`${scope === "all" && many ? "All pieces" : selected.name} ${length(mm, 1)}`, (recipe) =>
                withDesigns(recipe, many ? scope : "all", selected.id, { longest_mm: mm }),
              )
            }
          />
          <Reading label="Outline">{size(facts.width_mm, facts.height_mm)}</Reading>
          <Reading label="Picture">{`${facts.artwork.width_px} × ${facts.artwork.height_px} px`}</Reading>
          <Reading label="Resolution at this size">{Math.round(facts.ppi)} ppi</Reading>
        </Section>
      )}
      {selected && facts && <BackgroundSection design={selected} artwork={facts.artwork} onTry={setTried} />}
    </Station>
  );
}

/** `tried`: a tolerance that is being tried and not kept yet. */
function Table({ tried }: { tried: number | null }) {
  const { job, selected, facts } = useJob();
  const { size } = useUnits();
  const { uploads } = useUploads();
  const lines = useLines(selected);
  if (!selected || !facts)
    return (
      <EmptyTable>
        <div className="rounded-xl border-2 border-dashed border-rule bg-card px-10 py-12">
          <UploadIcon className="mx-auto mb-3 text-act" aria-hidden />
          <p className="pb-1 font-head text-[18px] font-semibold text-ink">Drop your pictures here</p>
          <p className="pb-4">PNG, JPEG, WebP, TIFF, SVG or PDF, one or many at once. Perisect looks at the background and finds the outline.</p>
          <Choose kind="act" />
          {uploads.some((each) => !each.problem) && <p className="pt-3" role="status">Reading …</p>}
        </div>
      </EmptyTable>
    );
  const box = { x: 0, y: 0, width: facts.width_mm, height: facts.height_mm };
  return (
    <LightTable
      box={box}
      subject={`art ${selected.id} ${facts.width_mm.toFixed(1)} ${facts.height_mm.toFixed(1)}`}
      label={`${selected.name} · ${size(facts.width_mm, facts.height_mm)}`}
      layers={LAYERS}
      hiddenAtFirst={HIDDEN}
      pins={needLooking(job.findings).filter((each) => each.station === "artwork" && each.design === selected.id)}
    >
      {(shown) => (
        <>
          {shown.has("art") && <ArtImage facts={facts} longestMm={selected.longest_mm ?? 60} href={tried === null ? undefined : trialUrl(selected.artwork, tried)} />}
          {shown.has("silhouette") && lines && <Silhouette lines={lines} facts={facts} longestMm={selected.longest_mm ?? 60} />}
          {shown.has("outline") && lines && tried === null && (
            <>
              <path d={lines.outline} className="casing" strokeWidth="2.6" />
              <path d={lines.outline} className="line" stroke="#a3301e" strokeWidth="1" />
              <rect width={facts.width_mm} height={facts.height_mm} className="line" stroke="#52615c" strokeDasharray="3 3" />
            </>
          )}
        </>
      )}
    </LightTable>
  );
}

function Choose({ kind = "plain" }: { kind?: "plain" | "act" }) {
  const { add } = useUploads();
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        multiple
        accept="image/png,image/jpeg,image/webp,image/tiff,image/svg+xml,application/pdf,.png,.jpg,.jpeg,.webp,.tif,.tiff,.svg,.pdf"
        className="hidden"
        data-testid="files"
        onChange={(event) => {
          void add(event.target.files ?? []);
          event.target.value = "";
        }}
      />
      <Button kind={kind} onClick={() => input.current?.click()}>Choose pictures</Button>
      {kind === "plain" && <span className="ml-2 text-[12.5px] text-quiet">or drop them anywhere</span>}
    </>
  );
}

/** What is on its way, and what was not taken in and why. */
function Uploading({ uploads }: { uploads: Upload[] }) {
  const { dismiss } = useUploads();
  return (
    <ul aria-label="Not taken in or on the way" aria-live="polite" className="px-2.5 pb-1">
      {uploads.map((upload) => (
        <li key={upload.key} className={`mb-1 rounded-md border px-2.5 py-1.5 text-[13px] ${upload.problem ? "border-stop bg-paper" : "border-rule"}`}>
          <div className="flex items-start gap-2">
            <span className="min-w-0 grow">
              <b className="block truncate">{upload.name}</b>
              {upload.problem ? <span><span className="text-stop">{upload.problem.title}</span> {upload.problem.detail}</span> : <span className="text-quiet">{upload.share < 1 ? "sending" : "reading"}</span>}
            </span>
            {upload.problem && (
              <button type="button" aria-label={`Put away ${upload.name}`} className="rounded p-0.5 hover:bg-stop-pale" onClick={() => dismiss(upload.key)}>
                <X size={15} />
              </button>
            )}
          </div>
          {!upload.problem && <progress className="h-1 w-full" value={upload.share} />}
        </li>
      ))}
    </ul>
  );
}
