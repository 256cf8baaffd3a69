import { type Design, type DesignFacts, type Lines, type Painted, previewUrl, type Schemas, type Sheets } from "../api/client";
import { PROCESSES } from "../api/constants";
import { LabelLayer } from "./LabelLayer";

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

const PX_A_MM = 3;
/** Dashes are drawn at one size at every zoom, as if a millimetre were so many pixels. */
export const dashOf = (dashMm: number[]) => dashMm.map((mm) => mm * PX_A_MM).join(" ") || undefined;

const PARTS = 12;
const LONG = 10_000;

/**
 * A long path as some of its rings each: without a graphics card a stroke is worked out for every tile of the screen that
 * its element touches.
 */
function inParts(d: string): string[] {
  if (d.length < LONG) return [d];
  const rings = d.split(/(?=M)/);
  const each = Math.ceil(rings.length / PARTS);
  return Array.from({ length: Math.ceil(rings.length / each) }, (_, n) => rings.slice(n * each, (n + 1) * each).join(""));
}

/** Lines of a process, as they look everywhere, with a pale casing that keeps them visible on dark art. */
export function ProcessPath({ process, d, gapMm }: { process: string; d: string; gapMm?: number[] }) {
  const record = PROCESSES.find((each) => each.name === process);
  if (!record || !d) return null;
  const parts = inParts(d);
  return (
    <>
      {parts.map((part, n) => <path key={n} d={part} className="casing" strokeWidth="3.6" />)}
      {parts.map((part, n) => <path key={n} d={part} className={`line line-${process}`} stroke={record.colour} strokeWidth="1.7" strokeDasharray={gapMm ? gapMm.join(" ") : dashOf(record.dash_mm)} />)}
    </>
  );
}

/** Lines by process, the first to be cut on top. */
export function CutPaths({ paths, shown }: { paths: Record<string, string>; shown: Set<string> }) {
  return (
    <>
      {[...PROCESSES].reverse().map(({ name }) => shown.has(name) && paths[name] && <ProcessPath key={name} process={name} d={paths[name]} />)}
    </>
  );
}

/** A printed border up to the piece's own line. */
export function Border({ lines, design }: { lines: Lines; design: Design }) {
  const colour = design.lines?.border_colour;
  return colour ? <path d={lines.paths.kiss || lines.paths.through} fill={colour} fillRule="evenodd" /> : null;
}

interface SheetProps {
  designs: Design[];
  facts: DesignFacts[];
  lines: Map<string, Lines>;
  sheet: Schemas["SheetRecipe"] | undefined;
  sheets: Sheets;
  labels?: Painted[][];
  number: number;
  shown: Set<string>;
  paper?: boolean;
}

const TIES_MM = [5, 0.7];
/** Cut and tie of a perforated line round everything. */

/** One filled sheet: paper, marks, usable area, and each sticker where it stands. */
export function SheetDrawing({ designs, facts, lines, sheet, sheets, labels, number, shown, paper = true }: SheetProps) {
  const here = sheets.sheets[number];
  const around = sheet?.perimeter_cut === "perforate" ? "perforate" : "through";
  return (
    <>
      {paper && <Paper width={sheets.width_mm} height={sheets.height_mm} />}
      <defs>
        {designs.map((design) => {
          const known = facts.find((each) => each.id === design.id);
          const drawn = lines.get(design.id);
          return (
            <g key={design.id} id={`sticker-${design.id}`}>
              {shown.has("art") && sheets.whites[design.id] && <path d={sheets.whites[design.id]} fill="#fff" fillRule="evenodd" />}
              {shown.has("art") && drawn && <Border lines={drawn} design={design} />}
              {shown.has("art") && known && <ArtImage facts={known} longestMm={design.longest_mm ?? 60} />}
              {drawn && <CutPaths paths={drawn.paths} shown={shown} />}
            </g>
          );
        })}
      </defs>
      {shown.has("usable") && sheet && sheets.roll_mm == null && <Beyond sheet={sheet} sheets={sheets} />}
      <Cards sheets={sheets} card={sheet?.card} number={number} shown={shown} />
      {shown.has("usable") && <path d={sheets.usable} className="line" stroke="#8fa39a" strokeDasharray="2 3" />}
      {shown.has("marks") && <path d={sheets.marks_ink} fill="var(--color-ink)" fillRule="evenodd" />}
      {here?.perimeter && shown.has(around) && <ProcessPath process={around} d={here.perimeter} gapMm={around === "perforate" ? TIES_MM : undefined} />}
      {(here?.placements ?? []).map((place, index) => (
        <use
          key={index}
          href={`#sticker-${place.design}`}
          transform={
            `translate(${place.x_mm + place.width_mm / 2} ${place.y_mm + place.height_mm / 2}) ` +
            `rotate(${place.rotation_deg}) translate(${-place.width_mm / 2} ${-place.height_mm / 2})`
          }
        />
      ))}
      {shown.has("art") && <LabelLayer sheets={sheets} number={number} labels={labels} />}
    </>
  );
}

/** Of a sheet of which a part is used: what was used before, and what is kept. */
function Beyond({ sheet, sheets }: { sheet: Schemas["SheetRecipe"]; sheets: Sheets }) {
  const from = sheet.from_mm ?? 0;
  const until = sheet.until_mm ?? sheets.height_mm;
  const parts = [
    { y: 0, height: from, told: "used before" },
    { y: until, height: sheets.height_mm - until, told: "kept for later" },
  ];
  return parts.map(({ y, height, told }) =>
    height > 0 ? (
      <g key={told}>
        <rect y={y} width={sheets.width_mm} height={height} fill="#e9eeec" />
        <text x={sheets.width_mm / 2} y={y + height / 2} textAnchor="middle" dominantBaseline="middle" fontSize={7} fill="#5d6f68">{told}</text>
      </g>
    ) : null,
  );
}

/** Theme cards: their ground, their heading and the line round each. */
function Cards({ sheets, card, number, shown }: { sheets: Sheets; card?: Schemas["CardRecipe"] | null; number: number; shown: Set<string> }) {
  if (!card) return null;
  const around = card.cut === "perforate" ? "perforate" : "through";
  return (
    <>
      {sheets.sheets[number]?.cards.map((place, index) => (
        <g key={index}>
          {shown.has("art") && <path d={place.outline} fill={card.colour} />}
          {shown.has("art") && (
            <path
              d={sheets.card_heading}
              fill={card.heading_colour}
              transform={`translate(${place.x_mm} ${place.y_mm}) rotate(${place.rotation_deg}) translate(${-card.width_mm! / 2} ${-card.height_mm! / 2})`}
            />
          )}
          {shown.has(around) && <ProcessPath process={around} d={place.outline} gapMm={around === "perforate" ? TIES_MM : undefined} />}
        </g>
      ))}
    </>
  );
}

/** A sheet of paper with a soft shadow. */
export function Paper({ width, height }: { width: number; height: number }) {
  return <rect width={width} height={height} fill="#fff" style={{ filter: "drop-shadow(0 .6px 1.4px rgba(20,40,36,.3))" }} />;
}
