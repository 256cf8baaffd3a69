import type { Lines } from "../../api/client";
import { useJob } from "../../job/job";
import { Fold } from "../../ui/Fold";
import { LengthField } from "../../ui/LengthField";
import { Reading } from "../../ui/Reading";
import { Toggle } from "../../ui/Toggle";
import { useUnits } from "../../ui/units";
import type { LineChange } from "./useLineChange";

const FACES = { paper: "paper", vinyl: "vinyl", film: "film", card: "card" };

/** What a knife meets along the piece's own line. */
export function ReadingsSection({ change, lines }: { change: LineChange; lines: Lines | undefined }) {
  const { length } = useUnits();
  const { sheet } = useJob().job.recipe;
  const { shown, now, keep, attempt } = change;
  if (!lines) return null;
  const or = (mm: number | null | undefined, none: string) => (mm == null ? none : length(mm));
  return (
    <Fold title="For the knife" told={length(lines.length_mm, 0)}>
      <Reading label="Cut in" words>{FACES[sheet?.paper?.face ?? "paper"]}, knife offset {length(sheet?.plotter?.knife_offset_mm ?? 0.25)}</Reading>
      <Reading label="Narrowest neck">{or(lines.narrowest_neck_mm, "none")}</Reading>
      <Reading label="Narrowest slot">{or(lines.narrowest_slot_mm, "none")}</Reading>
      <Reading label="Tightest bend">{or(lines.tightest_mm, "straight")}</Reading>
      <Reading label="Sharp turns in 100 mm">{lines.turns_per_100.toFixed(1)}</Reading>
      <Reading label="Time to cut one">{lines.seconds.toFixed(1)} s</Reading>
      <Reading label="Length of the line">{length(lines.length_mm, 0)}</Reading>
      <Reading label="Nodes, and before fitting">{lines.nodes} of {lines.nodes_before}</Reading>
      <LengthField label="Curve tolerance" mm={shown?.lines?.fit_mm ?? now.fit_mm} min={0} max={0.5} reach={0.3} step={0.01} onMove={(mm) => attempt({}, { fit_mm: mm })} onKeep={(mm) => keep(`Curve tolerance ${length(mm)}`, {}, { fit_mm: mm })} />
      <Toggle label="Sharp corners stay corners" on={now.keep_corners} onChange={(on) => keep(on ? "Corners kept" : "Corners eased", {}, { keep_corners: on })} />
    </Fold>
  );
}
