import { useEffect, useState } from "react";

import { useLines } from "../../bench/drawing";
import { useJob } from "../../shop/job";
import { Choice } from "../../ui/Choice";
import { Findings, needLooking } from "../../ui/Findings";
import { Row, Section } from "../../ui/Reading";
import { PieceStrip } from "../Pieces";
import { SCOPES, useScope } from "../scope";
import { EmptyTable, Station } from "../Station";
import { count } from "../stations";
import { BorderSection } from "./BorderSection";
import { EditSection } from "./EditSection";
import { ExtrasSections } from "./ExtrasSections";
import { HolesSection } from "./HolesSection";
import { LinesTable } from "./LinesTable";
import { OuterSection } from "./OuterSection";
import { ReadingsSection } from "./ReadingsSection";
import { useLineChange } from "./useLineChange";
import type { PatchTool } from "./usePatchHand";

export function LinesStation() {
  const { job, selected, facts } = useJob();
  const [scope, setScope] = useScope("all");
  const change = useLineChange(scope);
  const own = useLineChange("one"); // a shape drawn on one piece is for that piece
  const lines = useLines(change.shown);
  const [tool, setTool] = useState<PatchTool>(null);
  useEffect(() => setTool(null), [selected?.id]);
  useEffect(() => {
    const away = (event: KeyboardEvent) => event.key === "Escape" && setTool(null);
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
      table={<LinesTable design={change.shown} kept={selected} facts={facts} lines={lines} tool={tool} onLines={(changes, label) => own.keep(label, {}, changes)} />}
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
      <BorderSection change={change} lines={lines} />
      <OuterSection change={change} lines={lines} />
      <Findings title="Before it goes to the blade" findings={found} quiet={`Nothing to look at: ${count(lines?.pieces ?? 1, "piece")}, every loop wide enough for the knife.`} />
      {others > 0 && <p className="px-3.5 pb-3 text-look">{count(others, "other piece")} to look at: choose {others === 1 ? "it" : "one"} above.</p>}
      <HolesSection change={change} lines={lines} />
      <EditSection change={own} tool={tool} setTool={setTool} longestMm={Math.max(facts.width_mm, facts.height_mm)} />
      <ExtrasSections change={change} lines={lines} />
      <ReadingsSection lines={lines} />
    </Station>
  );
}
