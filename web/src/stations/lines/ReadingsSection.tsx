import type { Lines } from "../../api/client";
import { Fold } from "../../ui/Fold";
import { Reading } from "../../ui/Reading";
import { useUnits } from "../../units";

/** What a knife meets along the piece's own line. */
export function ReadingsSection({ lines }: { lines: Lines | undefined }) {
  const { length } = useUnits();
  if (!lines) return null;
  const or = (mm: number | null | undefined, none: string) => (mm == null ? none : length(mm));
  return (
    <Fold title="For the knife" told={length(lines.length_mm, 0)}>
      <Reading label="Narrowest neck">{or(lines.narrowest_neck_mm, "over 1 mm")}</Reading>
      <Reading label="Narrowest slot">{or(lines.narrowest_slot_mm, "over 1 mm")}</Reading>
      <Reading label="Tightest bend">{or(lines.tightest_mm, "straight")}</Reading>
      <Reading label="Sharp turns in 100 mm">{lines.turns_per_100.toFixed(1)}</Reading>
      <Reading label="Length of the line">{length(lines.length_mm, 0)}</Reading>
      <Reading label="Nodes">{lines.nodes}</Reading>
    </Fold>
  );
}
