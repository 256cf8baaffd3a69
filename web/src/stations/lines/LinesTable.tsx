import { useMemo, useRef } from "react";

import { type Design, type DesignFacts, type LineRecipe, type Lines, PLAIN_LINES } from "../../api/client";
import { ArtImage, Border, CutPaths } from "../../bench/drawing";
import type { Hand, Point } from "../../bench/Hand";
import { LightTable } from "../../bench/LightTable";
import { ART, type Layer, processLayers } from "../../bench/LineKey";
import { needLooking } from "../Findings";
import { useUnits } from "../../ui/units";
import { holeToggled } from "./HolesSection";
import type { Nodes } from "./useNodes";
import { type PatchTool, usePatchHand } from "./usePatchHand";

const BLEED: Layer = { id: "bleed", label: "Bleed" };

interface Props {
  /** As it is being tried. */
  design: Design;
  /** As it is kept. */
  kept: Design;
  facts: DesignFacts;
  lines: Lines | undefined;
  /** While it is tried which holes there are is not told. */
  moving: boolean;
  tool: PatchTool;
  nodes: Nodes;
  /** A tool of the station that is in use. */
  placing: Hand | null;
  onLines: (changes: Partial<LineRecipe>, label: string) => void;
}

/** One piece with its lines; a click on a hole fills it or cuts it. */
export function LinesTable({ design, kept, facts, lines, moving, tool, nodes, placing, onLines }: Props) {
  const { size, length } = useUnits();
  const [left, top, right, bottom] = (lines?.outer_box_mm ?? [0, 0, facts.width_mm, facts.height_mm]) as [number, number, number, number];
  const now: LineRecipe = { ...PLAIN_LINES, ...kept.lines };
  const longest = Math.max(facts.width_mm, facts.height_mm);
  const patching = usePatchHand(tool, longest, (patch) => onLines({ patches: [...now.patches, patch] }, patch.does === "unite" ? "Add to the line" : "Cut from the line"));
  const hand = patching ?? nodes.hand ?? placing;
  const subject = `lines ${design.id} ${design.longest_mm} ${kept.peel_mm != null} ${now.tab ? Math.round(bottom - top) : ""} ${now.shape} ${lines ? "drawn" : ""}`;
  const steady = useRef(subject);
  if (!hand) steady.current = subject; // the table must not move under a hand that drags
  const drawn = Object.keys(lines?.paths ?? {}).join();
  const layersOf = useMemo(() => [ART, BLEED, ...processLayers(new Set(drawn.split(",")))], [drawn]);
  return (
    <LightTable
      hand={hand}
      nodes={lines?.node_list.map((node) => node.place as Point)}
      box={{ x: left, y: top, width: right - left, height: bottom - top }}
      subject={steady.current}
      label={`${design.name} · ${size(right - left, bottom - top)} with lines`}
      layers={layersOf}
      pins={needLooking(lines?.findings ?? [])}
    >
      {(layers) => (
        <>
          {lines && <path d={lines.paths.perforate ? lines.paths.kiss : lines.paths.through || lines.paths.kiss} fill="#fff" style={{ filter: "drop-shadow(0 .3px .9px rgba(20,40,36,.25))" }} />}
          {lines && layers.has("art") && <Border lines={lines} design={design} />}
          {layers.has("art") && <ArtImage facts={facts} longestMm={design.longest_mm ?? 60} />}
          {lines?.bleed && layers.has("bleed") && <path d={lines.bleed} className="line" stroke="#5f938b" strokeWidth="1.4" strokeDasharray="1.5 3" />}
          {lines && <CutPaths paths={lines.paths} shown={layers} />}
          {(moving ? [] : (lines?.holes_found ?? []))
            .filter((hole) => !hole.too_small)
            .map((hole) => (
              <circle
                key={hole.place.join()}
                cx={hole.place[0]}
                cy={hole.place[1]}
                r={Math.min(hole.across_mm / 2, 2)}
                fill="#fff"
                fillOpacity={0.01}
                stroke={hole.filled ? "#007f8c" : "none"}
                strokeWidth="1"
                strokeDasharray="1.5 2.5"
                vectorEffect="non-scaling-stroke"
                className="cursor-pointer hover:fill-act-pale hover:[fill-opacity:0.8]"
                onClick={() => !hand && onLines(holeToggled(hole, now), hole.filled ? "Cut a hole" : "Fill a hole")}
              >
                <title>{`Hole of ${length(hole.across_mm)}: click to ${hole.filled ? "cut it" : "fill it"}`}</title>
              </circle>
            ))}
        </>
      )}
    </LightTable>
  );
}
