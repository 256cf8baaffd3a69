import { skipToken, useQueries, useQuery } from "@tanstack/react-query";

import { api, ask, type Design, type DesignFacts, type Job, type Lines, type Schemas, type Sheets, PLAIN_LINES, previewUrl, UNMENDED } from "../api/client";
import { LabelLayer } from "./LabelLayer";

const linesKey = (design?: Design) => ["lines", design?.id, design?.name, design?.artwork, design?.mend, design?.longest_mm, design?.border_mm, design?.peel_mm, design?.lines];

const linesQuery = (design: Design) => ({
  queryKey: linesKey(design),
  queryFn: ({ signal }: { signal: AbortSignal }) =>
    ask<Lines>(
      api.POST("/api/lines", {
        signal,
        body: {
          artwork: design.artwork,
          mend: design.mend ?? UNMENDED,
          longest_mm: design.longest_mm ?? 60,
          border_mm: design.border_mm ?? 0,
          peel_mm: design.peel_mm,
          lines: design.lines ?? PLAIN_LINES,
          design: design.id,
          name: design.name,
        },
      }),
    ),
  staleTime: Infinity,
});

/** Lines of one design; the ones before stay while new ones come. */
export function useLines(design: Design | undefined): Lines | undefined {
  const query = useQuery({
    ...(design ? linesQuery(design) : { queryKey: linesKey(), queryFn: skipToken }),
    placeholderData: (before, of) => (of?.queryKey[1] === design?.id ? before : undefined),
  });
  return query.data;
}

/** Lines of every design of a job, by its id. */
export function useAllLines(designs: Design[]): Map<string, Lines> {
  const answers = useQueries({ queries: designs.map(linesQuery) });
  return new Map(designs.flatMap((design, n) => (answers[n]?.data ? [[design.id, answers[n].data] as const] : [])));
}

/** The picture of a design in design mm: the outline's box starts at (0, 0). */
export function ArtImage({ facts, longestMm, href }: { facts: DesignFacts; longestMm: number; href?: string }) {
  const [left, top, right, bottom] = facts.artwork.outline_box_px as [number, number, number, number];
  const scale = longestMm / Math.max(right - left, bottom - top);
  return (
    <image
      href={href ?? previewUrl(facts.artwork.picture)}
      x={-left * scale}
      y={-top * scale}
      width={facts.artwork.width_px * scale}
      height={facts.artwork.height_px * scale}
      preserveAspectRatio="none"
    />
  );
}

/** Kiss and through lines, with a pale casing that keeps them visible on dark art. */
export function CutPaths({ lines, shown }: { lines: Pick<Lines, "kiss" | "through" | "perforate" | "weed" | "crease">; shown: Set<string> }) {
  return (
    <>
      {shown.has("through") && lines.through && (
        <>
          <path d={lines.through} className="casing" strokeWidth="3.4" />
          <path d={lines.through} className="line line-through" />
        </>
      )}
      {shown.has("through") && lines.perforate && (
        <>
          <path d={lines.perforate} className="casing" strokeWidth="3.4" />
          <path d={lines.perforate} className="line line-perforate" />
        </>
      )}
      {(["weed", "crease"] as const).map(
        (process) =>
          shown.has(process === "weed" ? "kiss" : "through") &&
          lines[process] && (
            <g key={process}>
              <path d={lines[process]} className="casing" strokeWidth="3.4" />
              <path d={lines[process]} className={`line line-${process}`} />
            </g>
          ),
      )}
      {shown.has("kiss") && (
        <>
          <path d={lines.kiss} className="casing" strokeWidth="3.8" />
          <path d={lines.kiss} className="line line-kiss" />
        </>
      )}
    </>
  );
}

/** A printed border up to the piece's own line. */
export function Border({ lines, design }: { lines: Lines; design: Design }) {
  const colour = design.lines?.border_colour;
  return colour ? <path d={lines.kiss || lines.through} fill={colour} fillRule="evenodd" /> : null;
}

interface SheetProps {
  job: Job;
  number: number;
  shown: Set<string>;
  paper?: boolean;
}

/** One filled sheet: paper, marks, usable area, and each sticker where it stands. */
export function SheetDrawing({ job, number, shown, paper = true }: SheetProps) {
  const designs = job.recipe.designs ?? [];
  const lines = useAllLines(designs);
  const { sheets } = job;
  return (
    <>
      {paper && <Paper width={sheets.width_mm} height={sheets.height_mm} />}
      <defs>
        {designs.map((design) => {
          const facts = job.designs.find((each) => each.id === design.id);
          const drawn = lines.get(design.id);
          return (
            <g key={design.id} id={`sticker-${design.id}`}>
              {shown.has("art") && sheets.whites[design.id] && <path d={sheets.whites[design.id]} fill="#fff" fillRule="evenodd" />}
              {shown.has("art") && drawn && <Border lines={drawn} design={design} />}
              {shown.has("art") && facts && <ArtImage facts={facts} longestMm={design.longest_mm ?? 60} />}
              {drawn && <CutPaths lines={drawn} shown={shown} />}
            </g>
          );
        })}
      </defs>
      <Cards sheets={sheets} card={job.recipe.sheet?.card} number={number} shown={shown} />
      {shown.has("usable") && <path d={sheets.usable} className="line" stroke="#8fa39a" strokeDasharray="2 3" />}
      {shown.has("marks") && <path d={sheets.marks} fill="#16211f" fillRule="evenodd" />}
      {shown.has("through") && sheets.blocks[number] && <path d={sheets.blocks[number]} className={`line line-${job.recipe.sheet?.block === "perforate" ? "perforate" : "through"}`} strokeDasharray={job.recipe.sheet?.block === "perforate" ? "5 .7" : undefined} />}
      {(sheets.sheets[number] ?? []).map((place, index) => (
        <use
          key={index}
          href={`#sticker-${place.design}`}
          transform={
            `translate(${place.x_mm + place.width_mm / 2} ${place.y_mm + place.height_mm / 2}) ` +
            `rotate(${place.rotation_deg}) translate(${-place.width_mm / 2} ${-place.height_mm / 2})`
          }
        />
      ))}
      {shown.has("art") && <LabelLayer sheets={sheets} number={number} />}
    </>
  );
}

/** Theme cards: their ground, their heading and the line round each. */
function Cards({ sheets, card, number, shown }: { sheets: Sheets; card?: Schemas["CardRecipe"] | null; number: number; shown: Set<string> }) {
  if (!card) return null;
  return (
    <>
      {sheets.cards[number]?.map((path, index) => {
        const [x, y, turn] = sheets.card_at[number]?.[index] ?? [0, 0, 0];
        return (
          <g key={index}>
            {shown.has("art") && <path d={path} fill={card.colour} />}
            {shown.has("art") && <path d={sheets.card_heading} fill={card.heading_colour} transform={`translate(${x} ${y}) rotate(${turn}) translate(${-card.width_mm! / 2} ${-card.height_mm! / 2})`} />}
            {shown.has("through") && <path d={path} className={`line line-${card.cut === "perforate" ? "perforate" : "through"}`} strokeDasharray={card.cut === "perforate" ? "5 .7" : undefined} />}
          </g>
        );
      })}
    </>
  );
}

/** A sheet of paper with a soft shadow. */
export function Paper({ width, height }: { width: number; height: number }) {
  return <rect width={width} height={height} fill="#fff" style={{ filter: "drop-shadow(0 .6px 1.4px rgba(20,40,36,.3))" }} />;
}
