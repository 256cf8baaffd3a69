import { useEffect, useState } from "react";

import { useLines } from "../../job/lines";
import { useJob } from "../../job/job";
import { Choice } from "../../ui/Choice";
import { Findings, needLooking } from "../Findings";
import { Row, Section } from "../../ui/Reading";
import { PieceStrip } from "../Pieces";
import { SCOPES, useScope } from "../scope";
import { EmptyTable, Station } from "../Station";
import { count } from "../../job/stubs";
import { BorderSection } from "./BorderSection";
import { UsualCutTypeQuestion } from "./UsualCutType";
import { EditSection } from "./EditSection";
import { ExtrasSections } from "./ExtrasSections";
import { FurtherSection } from "./FurtherSection";
import { HolesSection } from "./HolesSection";
import { LinesTable } from "./LinesTable";
import { CutTypeSection } from "./CutTypeSection";
import { ReadingsSection } from "./ReadingsSection";
import { ShelfSection } from "./ShelfSection";
import { useLineChange } from "./useLineChange";
import { useNodes } from "./useNodes";
import type { PatchTool } from "./usePatchHand";
import { type Placing, usePlaceHand } from "./usePlaceHand";

export function LinesStation() {
  const { job, selected, facts } = useJob();
  const [scope, setScope] = useScope("all");
  const change = useLineChange(scope);
  const own = useLineChange("one"); // a shape drawn on one piece is for that piece
  const [editing, setEditing] = useState(false); // a node in hand: its own draft is what is shown
  const shown = editing ? own.shown : change.shown;
  const moving = !editing && change.moving;
  const lines = useLines(shown, moving);
  const longestMm = Math.max(facts?.width_mm ?? 1, facts?.height_mm ?? 1);
  const nodes = useNodes(lines, own, longestMm);
  useEffect(() => setEditing(nodes.active), [nodes.active]);
  const [tool, setTool] = useState<PatchTool>(null);
  const [placing, setPlacing] = useState<Placing>(null);
  const put = (near: [number, number]) => (placing === "tab" ? { tab: { ...change.now.tab!, near } } : { hang: { ...change.now.hang!, near } });
  const placeHand = usePlaceHand(
    placing,
    longestMm,
    (near) => change.attempt({}, put(near)),
    (near) => change.keep(placing === "tab" ? "Place of the tab" : "Place of the hole", {}, put(near)),
  );
  const take = (what: "shape" | "nodes" | "place", next: PatchTool | boolean | Placing) => {
    setTool(what === "shape" ? (next as PatchTool) : null);
    nodes.setActive(what === "nodes" && Boolean(next));
    setPlacing(what === "place" ? (next as Placing) : null);
  };
  const putAway = nodes.setActive;
  useEffect(() => {
    setTool(null);
    putAway(false);
    setPlacing(null);
  }, [selected?.id, putAway]);
  useEffect(() => {
    const away = (event: KeyboardEvent) => {
      if (event.key !== "Escape") return;
      setTool(null);
      setPlacing(null);
    };
    window.addEventListener("keydown", away);
    return () => window.removeEventListener("keydown", away);
  }, []);
  const many = (job.recipe.designs ?? []).length > 1;

  if (!change.shown || !selected || !facts)
    return (
      <Station table={<EmptyTable>Drop a picture at station 1. Its outline becomes the kiss line here.</EmptyTable>} next={{ label: "Go to artwork", station: 1 }}>
        <Section title="Border and kiss line"><p className="px-3.5 text-quiet">No pieces yet.</p></Section>
      </Station>
    );
  const found = lines?.findings ?? [];
  const others = new Set(needLooking(job.findings).flatMap((each) => (each.station === "lines" && each.design !== selected.id ? [each.design] : []))).size;

  return (
    <Station
      next={{ label: "Lay out the sheet", station: 3 }}
      table={<LinesTable design={shown ?? change.shown} kept={selected} facts={facts} lines={lines} moving={moving} tool={tool} nodes={nodes} placing={placeHand} onLines={(changes, label) => own.keep(label, {}, changes)} />}
    >
      {many && (
        <Section title={`Piece: ${selected.name}`}>
          <PieceStrip />
          <Row>
            <span className="text-quiet">Apply changes to</span>
            <Choice label="Apply changes to" value={scope} options={SCOPES} onChange={setScope} />
          </Row>
        </Section>
      )}
      <UsualCutTypeQuestion />
      <BorderSection change={change} one={own} lines={lines} held={facts.artwork.held_line} />
      <CutTypeSection change={change} lines={lines} />
      <Findings title="Before it goes to the blade" findings={found} quiet={`Nothing to look at: ${count(lines?.pieces ?? 1, "piece")}, every loop wide enough for the knife.`} />
      {others > 0 && <p className="px-3.5 pb-3 text-look">{count(others, "other piece")} to look at: choose {others === 1 ? "it" : "one"} above.</p>}
      <HolesSection change={change} lines={lines} />
      <EditSection change={own} tool={tool} setTool={(next) => take("shape", next)} nodes={nodes} setNodes={(on) => take("nodes", on)} longestMm={longestMm} />
      <ExtrasSections change={change} placing={placing} setPlacing={(next) => take("place", next)} />
      <FurtherSection change={change} />
      <ReadingsSection change={change} lines={lines} />
      <ShelfSection key={`shelf ${job.id}`} />
    </Station>
  );
}
