import { Switch } from "radix-ui";
import { useEffect, useState } from "react";

import type { Design } from "../api/client";
import { ArtImage, CutPaths, useLines } from "../bench/drawing";
import { LightTable } from "../bench/LightTable";
import { ART, KISS, THROUGH } from "../bench/LineKey";
import { useJob } from "../shop/job";
import { Choice } from "../ui/Choice";
import { Findings, needLooking } from "../ui/Findings";
import { LengthField } from "../ui/LengthField";
import { Figures, Row, Section } from "../ui/Reading";
import { useUnits } from "../units";
import { PieceStrip } from "./Pieces";
import { SCOPES, useScope, withDesigns } from "./scope";
import { EmptyTable, Station } from "./Station";
import { count } from "./stations";

const LAYERS = [ART, KISS, THROUGH];

export function LinesStation() {
  const { job, selected, facts, change } = useJob();
  const { length, size } = useUnits();
  const [scope, setScope] = useScope("all");
  const [draft, setDraft] = useState<Partial<Design>>({});
  useEffect(() => setDraft({}), [job.revision, selected?.id]);
  const shown = selected && { ...selected, ...draft };
  const lines = useLines(shown);
  const many = (job.recipe.designs ?? []).length > 1;

  if (!shown || !selected || !facts)
    return (
      <Station table={<EmptyTable>Drop a picture at station 1. Its outline becomes the kiss line here.</EmptyTable>} next={{ label: "Go to artwork", station: 1 }}>
        <Section title="Border and kiss line"><p className="px-3.5 text-quiet">No pieces yet.</p></Section>
      </Station>
    );

  const keep = (label: string, changes: Partial<Design>) =>
    void change(`${label}${many && scope === "one" ? `, ${selected.name}` : ""}`, (recipe) =>
      withDesigns(recipe, many ? scope : "all", selected.id, changes),
    ).then(() => setDraft({})); // kept or refused, what is shown is what is kept
  const [left, top, right, bottom] = (lines?.outer_box_mm ?? [0, 0, facts.width_mm, facts.height_mm]) as [number, number, number, number];
  const found = lines?.findings ?? [];
  const others = needLooking(job.findings).filter((each) => each.station === "lines" && each.design !== selected.id);

  return (
    <Station
      next={{ label: "Lay out the sheet", station: 3 }}
      table={
        <LightTable
          box={{ x: left, y: top, width: right - left, height: bottom - top }}
          subject={`lines ${selected.id} ${selected.longest_mm} ${lines ? "drawn" : ""}`}
          label={`${selected.name} · ${size(right - left, bottom - top)} with lines`}
          layers={LAYERS}
          pins={needLooking(found)}
        >
          {(layers) => (
            <>
              {lines && <path d={lines.through || lines.kiss} fill="#fff" style={{ filter: "drop-shadow(0 .3px .9px rgba(20,40,36,.25))" }} />}
              {layers.has("art") && <ArtImage facts={facts} longestMm={shown.longest_mm ?? 60} />}
              {lines && <CutPaths lines={lines} shown={layers} />}
            </>
          )}
        </LightTable>
      }
    >
      {many && (
        <Section title={`Piece: ${selected.name}`}>
          <PieceStrip />
          <Row>
            <span className="text-quiet">Changes are for</span>
            <Choice label="Changes are for" value={scope} options={SCOPES} onChange={setScope} />
          </Row>
        </Section>
      )}
      <Section title="Border and kiss line">
        <LengthField
          label="White border"
          mm={shown.border_mm ?? 0}
          min={0}
          max={20}
          reach={8}
          colour="var(--color-kiss)"
          onMove={(mm) => setDraft((before) => ({ ...before, border_mm: mm }))}
          onKeep={(mm) => keep(`Border ${length(mm)}`, { border_mm: mm })}
        />
        {lines && (
          <Figures
            items={[
              { value: lines.pieces, label: lines.pieces === 1 ? "piece" : "loose pieces" },
              { value: lines.holes, label: lines.holes === 1 ? "hole cut out" : "holes cut out" },
              { value: lines.nodes, label: "nodes" },
            ]}
          />
        )}
      </Section>
      <Section title="Through line and peel edge">
        <Row>
          <label htmlFor="through" className="text-quiet">Cut each sticker out</label>
          <Switch.Root
            id="through"
            checked={shown.peel_mm != null}
            onCheckedChange={(on) => keep(on ? "Through line" : "No through line", { peel_mm: on ? 3 : null })}
            className="h-5 w-9 rounded-full bg-[#b9c6c0] data-[state=checked]:bg-act"
          >
            <Switch.Thumb className="block size-4 translate-x-0.5 rounded-full bg-white transition-transform data-[state=checked]:translate-x-[18px]" />
          </Switch.Root>
        </Row>
        {shown.peel_mm != null && (
          <LengthField
            label="Peel margin"
            mm={shown.peel_mm}
            min={0.5}
            max={20}
            reach={8}
            colour="var(--color-through)"
            onMove={(mm) => setDraft((before) => ({ ...before, peel_mm: mm }))}
            onKeep={(mm) => keep(`Peel margin ${length(mm)}`, { peel_mm: mm })}
          />
        )}
      </Section>
      <Findings title="Before it goes to the blade" findings={found} quiet={`Nothing to look at: ${count(lines?.pieces ?? 1, "piece")}, every loop wide enough for the knife.`} />
      {others.length > 0 && <p className="px-3.5 pb-3 text-look">{count(others.length, "other piece")} to look at: choose it above.</p>}
    </Station>
  );
}
