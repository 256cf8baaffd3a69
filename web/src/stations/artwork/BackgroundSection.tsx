import { Pipette } from "lucide-react";

import type { Artwork, Design, DesignFacts, Mend } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { Fold } from "../../ui/Fold";
import { Row } from "../../ui/Reading";
import { Slide } from "../../ui/Slide";
import { useUnits } from "../../ui/units";
import { placesOf, withOut } from "./places";
import { ToolButton, type Tool } from "./tools";
import { useMend } from "./useMend";

const VERDICTS: Record<Artwork["verdict"], string> = {
  clear: "Clear",
  feathered: "Clear, with soft edges",
  plain: "One plain colour",
  checkerboard: "Painted checkerboard",
  photograph: "Full picture, no background",
};

const SHADOWS: { value: Mend["shadow"]; label: string; title: string }[] = [
  { value: "drop", label: "Removed", title: "Cut round the art without its shadow" },
  { value: "soft", label: "Soft", title: "Keep the shadow as soft transparency, with the line round the art" },
  { value: "with", label: "Cut round too", title: "Keep the shadow as it is, with the line round both" },
];

/** Shown for a colour that was pointed at, of which nothing is measured before. */
const USUAL_TOLERANCE = 3;

/** Pixels of a checkerboard picture up to which a tolerance is tried while the slider moves. */
const MOST_TRIED_PX = 4_000_000;

/** What a list says of a picture's background in a word. */
export function shortVerdict(artwork: Artwork, mend: Mend | undefined): string {
  if (mend?.background && mend.background !== "as_is") return "removed";
  if (mend?.frame) return "framed";
  if (mend?.backing) return "backed";
  return artwork.background === "clear" ? "clear" : "not clear";
}

interface Props {
  design: Design;
  facts: DesignFacts;
  tool: Tool;
  setTool: (tool: Tool) => void;
  onTry: (tolerance: number | null) => void;
}

/** The verdict on the background and what can be done about it. */
export function BackgroundSection({ design, facts, tool, setTool, onTry }: Props) {
  const { artwork } = facts;
  const { mend, keep } = useMend(design);
  const removable = artwork.verdict === "plain" || artwork.verdict === "checkerboard";
  const removed = mend.background !== "as_is";
  const [across = 0, along = 0] = artwork.came_px;
  const canTry = artwork.verdict === "plain" || (artwork.verdict === "checkerboard" && across * along <= MOST_TRIED_PX);

  return (
    <Fold title="Background" told={mend.subject ? "Cut out" : VERDICTS[artwork.verdict]} open={!(artwork.verdict === "clear") || removed}>
      <p className="px-3.5 pb-1">
        <span className="text-quiet">{artwork.reason}</span>{" "}
        {artwork.verdict !== "clear" && <span className="figure text-[12px] text-quiet">{Math.round(artwork.confidence * 100)}{"\u00a0% sure"}</span>}
      </p>
      {artwork.notes.map((note) => <p key={note} className="px-3.5 pb-1 text-[12.5px] text-quiet">{note}</p>)}
      {removable && (
        <Row>
          <span className="text-quiet">Background</span>
          <Choice
            label="Background"
            value={removed ? "gone" : "as_is"}
            options={[{ value: "as_is", label: "As it is" }, { value: "gone", label: "Removed" }]}
            onChange={(next) =>
              void keep(next === "gone" ? "Remove the background" : "Background as it is", {
                background: next === "gone" ? (artwork.verdict as "plain" | "checkerboard") : "as_is",
                knock_out: [],
                keep: [],
              })
            }
          />
        </Row>
      )}
      {removed && artwork.shadow && (
        <Row>
          <span className="text-quiet">Its shadow</span>
          <Choice label="Its shadow" value={mend.shadow} options={SHADOWS} onChange={(shadow) => void keep("Shadow", { shadow })} />
        </Row>
      )}
      {(removed || mend.picked.length > 0) && (
        <>
          <Slide
            label="Tolerance"
            min={1}
            max={40}
            step={0.5}
            value={mend.tolerance ?? artwork.tolerance ?? USUAL_TOLERANCE}
            say={(now) => (mend.tolerance == null && now === artwork.tolerance ? `${now}, as measured` : String(now))}
            onMove={(tolerance) => removed && canTry && onTry(tolerance)}
            onKeep={(tolerance) => void keep(`Tolerance ${tolerance}`, { tolerance, knock_out: [], keep: [] })}
          />
          {mend.tolerance != null && (
            <button
              type="button"
              className="mx-3.5 text-act underline underline-offset-2"
              onClick={() => void keep("Tolerance as measured", { tolerance: null, knock_out: [], keep: [] })}
            >
              {artwork.tolerance == null ? "Measured from the picture's grain" : `As measured, ${artwork.tolerance}`}
            </button>
          )}
        </>
      )}
      {removed && <Islands design={design} facts={facts} />}
      <div className="flex flex-wrap items-center gap-2 px-3.5 py-1">
        <ToolButton tool={tool} wants={{ kind: "pick" }} setTool={setTool} icon={<Pipette size={14} aria-hidden />}>
          Pick a colour
        </ToolButton>
        {mend.picked.length > 0 && (
          <button type="button" className="text-act underline underline-offset-2" onClick={() => void keep("Restore picked colours", { picked: [] })}>
            Restore {mend.picked.length === 1 ? "it" : `all ${mend.picked.length}`}
          </button>
        )}
      </div>
    </Fold>
  );
}

/** Enclosed patches of the background's colour, each to be removed or kept. */
function Islands({ design, facts }: { design: Design; facts: DesignFacts }) {
  const { mend, keep } = useMend(design);
  const { area } = useUnits();
  const { mmPerPx } = placesOf(facts, design.longest_mm ?? 60);
  const { islands } = facts.artwork;
  if (islands.length === 0) return null;
  const isGone = (place: [number, number]) => {
    const named = (list: [number, number][]) => list.some(([x, y]) => x === place[0] && y === place[1]);
    return named(mend.knock_out);
  };
  return (
    <ul aria-label="Enclosed patches" className="mx-3.5 my-1 max-h-36 overflow-y-auto rounded-md border border-rule bg-paper">
      {islands.map((island) => {
        const place = island.place as [number, number];
        const gone = isGone(place);
        return (
          <li key={place.join()} className="flex items-center justify-between gap-2 border-b border-rule px-2 py-1 text-[12.5px] last:border-b-0">
            <span>
              Patch of {area(island.area_px * mmPerPx * mmPerPx)}
              {island.thin && <span className="block text-[11.5px] text-quiet">A sliver: too small for the knife, better kept.</span>}
            </span>
            <Choice
              label={`Patch of ${area(island.area_px * mmPerPx * mmPerPx)}`}
              value={gone ? "gone" : "kept"}
              options={[{ value: "kept", label: "Kept" }, { value: "gone", label: "Removed" }]}
              onChange={(next) =>
                void keep(next === "gone" ? "Remove a patch" : "Keep a patch", {
                  knock_out: next === "gone" ? [...mend.knock_out, place] : withOut(mend.knock_out, place),
                })
              }
            />
          </li>
        );
      })}
    </ul>
  );
}
