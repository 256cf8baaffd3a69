import type { LineRecipe, Lines } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { Fold } from "../../ui/Fold";
import { Row } from "../../ui/Reading";
import { LengthField } from "../../ui/LengthField";
import { useUnits } from "../../ui/units";
import { count } from "../../job/stubs";
import type { LineChange } from "./useLineChange";

const EVERY_MM = 400;
const SMALL_MM = 6;

export type HoleFound = Lines["holes_found"][number];

const near = (a: readonly number[], b: readonly number[], across: number) => Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!) < across / 2;

/** The recipe with one hole filled that was kept, or kept that was filled. */
export function holeToggled(hole: HoleFound, now: LineRecipe): Partial<LineRecipe> {
  const place: [number, number] = [Math.round(hole.place[0] * 100) / 100, Math.round(hole.place[1] * 100) / 100];
  const others = (list: [number, number][]) => list.filter((each) => !near(each, place, hole.across_mm));
  return hole.filled
    ? { holes_filled: others(now.holes_filled), holes_kept: [...others(now.holes_kept), place] }
    : { holes_kept: others(now.holes_kept), holes_filled: [...others(now.holes_filled), place] };
}

/** Holes of the line: filled or kept, by size and one by one. */
export function HolesSection({ change, lines }: { change: LineChange; lines: Lines | undefined }) {
  const { shown, now, keep, attempt } = change;
  const { length } = useUnits();
  const holes = lines?.holes_found ?? [];
  if (holes.length === 0) return null;
  const filled = holes.filter((hole) => hole.filled).length;
  return (
    <Fold title="Holes" told={filled ? `${filled} of ${holes.length} filled` : count(holes.length, "hole")}>
      <Row>
        <Choice
          label="Holes of the line"
          value={now.fill_holes_mm >= EVERY_MM ? "filled" : now.fill_holes_mm > 0 ? "some" : "cut"}
          options={[{ value: "filled", label: "All filled" }, { value: "some", label: "Small ones" }, { value: "cut", label: "All cut" }]}
          onChange={(which) => keep(`Holes: ${which}`, {}, { fill_holes_mm: which === "filled" ? EVERY_MM : which === "cut" ? 0 : SMALL_MM, holes_filled: [], holes_kept: [] })}
        />
      </Row>
      {now.fill_holes_mm > 0 && now.fill_holes_mm < EVERY_MM && (
        <LengthField
          label="Fill those smaller than"
          mm={shown?.lines?.fill_holes_mm ?? now.fill_holes_mm}
          min={0}
          max={EVERY_MM - 0.25}
          reach={20}
          step={0.25}
          onMove={(mm) => attempt({}, { fill_holes_mm: mm })}
          onKeep={(mm) => keep(`Holes under ${length(mm)} filled`, {}, { fill_holes_mm: mm })}
        />
      )}
      <ul aria-label="Holes" className="mx-3.5 max-h-44 overflow-y-auto rounded-md border border-rule bg-paper text-[12.5px]">
        {holes.map((hole) => (
          <li key={hole.place.join()} className="flex items-center justify-between gap-2 border-b border-rule px-2 py-1 last:border-b-0">
            <span>
              {length(hole.across_mm)} across
              {hole.too_small && <span className="block text-[11.5px] text-quiet">Too small for the knife: filled.</span>}
            </span>
            {!hole.too_small && (
              <Choice
                label={`Hole of ${length(hole.across_mm)}`}
                value={hole.filled ? "filled" : "kept"}
                options={[{ value: "kept", label: "Cut" }, { value: "filled", label: "Filled" }]}
                onChange={() => keep(hole.filled ? "Cut a hole" : "Fill a hole", {}, holeToggled(hole, now))}
              />
            )}
          </li>
        ))}
      </ul>
      <p className="px-3.5 pt-1 text-[12.5px] text-quiet">Or click a hole on the light table.</p>
    </Fold>
  );
}
