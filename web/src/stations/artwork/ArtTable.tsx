import { previewUrl, type Design, type DesignFacts, type Piece, trialUrl, UNMENDED } from "../../api/client";
import { ArtImage } from "../../bench/drawing";
import { useLines } from "../../job/lines";
import { LightTable } from "../../bench/LightTable";
import { ART } from "../../bench/LineKey";
import { useJob } from "../../job/job";
import { needLooking } from "../Findings";
import { useUnits } from "../../ui/units";
import { useArtHand, useCropHand } from "./hands";
import type { Rect } from "./crop";
import { placesOf } from "./places";
import { SolidForm } from "./SolidForm";
import type { Tool } from "./tools";

const LAYERS = [ART, { id: "outline", label: "Outline" }, { id: "solid", label: "Solid form" }];
const HIDDEN = ["solid"];

interface Props {
  design: Design;
  facts: DesignFacts;
  tool: Tool;
  brushMm: number;
  /** A tolerance that is being tried and not kept yet. */
  tried: number | null;
  /** A picture through a tone, in place of the picture. */
  toned: string | null;
  /** Drawings of a page that are to be boxed. */
  boxed: Piece[] | null;
  rect: Rect | null;
  aspect: number | null;
  onRect: (rect: Rect) => void;
}

/** One picture on the light table. */
export function ArtTable({ design, facts, tool, brushMm, tried, toned, boxed, rect, aspect, onRect }: Props) {
  const { job } = useJob();
  const { size } = useUnits();
  const lines = useLines(design);
  const longestMm = design.longest_mm ?? 60;
  const picture = facts.artwork.came_px as [number, number];
  const whole = longestMm / Math.max(...picture);
  const hand = useArtHand({ design, facts, tool, brushMm });
  const cropHand = useCropHand(tool.kind === "crop" ? rect : null, picture, whole, aspect, onRect);
  const places = placesOf(facts, longestMm);

  if (cropHand)
    return (
      <LightTable
        box={{ x: 0, y: 0, width: picture[0] * whole, height: picture[1] * whole }}
        subject={`crop ${design.id}`}
        label={`${design.name} as it came`}
        layers={LAYERS.slice(0, 1)}
        hand={cropHand}
      >
        {() => <image href={previewUrl(design.artwork)} width={picture[0] * whole} height={picture[1] * whole} preserveAspectRatio="none" />}
      </LightTable>
    );
  const [fromX, fromY] = places.toMm([0, 0]);
  const [toX, toY] = places.toMm(picture);
  return (
    <LightTable
      box={{ x: 0, y: 0, width: facts.width_mm, height: facts.height_mm }}
      subject={`art ${design.id} ${facts.width_mm.toFixed(1)} ${facts.height_mm.toFixed(1)}`}
      label={`${design.name} · ${size(facts.width_mm, facts.height_mm)}`}
      layers={LAYERS}
      hiddenAtFirst={HIDDEN}
      pins={needLooking(job.findings).filter((each) => each.station === "artwork" && each.design === design.id)}
      hand={hand}
    >
      {(shown) => {
        const solid = shown.has("solid") || tool.kind === "specks";
        return (
          <>
            {shown.has("art") && !solid && (tried === null
              ? <ArtImage facts={facts} longestMm={longestMm} href={toned ?? undefined} />
              // What is tried is the whole picture as it came, also where a crop or one drawing of it is shown.
              : <image href={trialUrl(design.artwork, tried)} x={fromX} y={fromY} width={toX - fromX} height={toY - fromY} preserveAspectRatio="none" />)}
            {solid && lines && <SolidForm lines={lines} facts={facts} mend={{ ...UNMENDED, ...design.mend }} longestMm={longestMm} />}
            {shown.has("outline") && lines && tried === null && (
              <>
                <path d={lines.outline} className="casing" strokeWidth="2.6" />
                <path d={lines.outline} className="line" stroke="#0f5c57" strokeWidth="1.6" strokeDasharray="4 2" />
                <rect width={facts.width_mm} height={facts.height_mm} className="line" stroke="#52615c" strokeDasharray="3 3" />
              </>
            )}
            {boxed?.map((piece) => {
              const [x, y] = places.toMm([piece.left_px, piece.top_px]);
              const [right, bottom] = places.toMm([piece.left_px + piece.width_px, piece.top_px + piece.height_px]);
              return (
                <g key={piece.place.join()}>
                  <rect x={x} y={y} width={right - x} height={bottom - y} className="casing" strokeWidth="4" />
                  <rect x={x} y={y} width={right - x} height={bottom - y} className="line" stroke="#0f5c57" strokeWidth="1.6" />
                </g>
              );
            })}
          </>
        );
      }}
    </LightTable>
  );
}
