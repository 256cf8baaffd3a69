import type { LineRecipe, Lines } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { LengthField } from "../../ui/LengthField";
import { Figures, Row, Section } from "../../ui/Reading";
import { useUnits } from "../../ui/units";
import { SafeBorder } from "./SafeBorder";
import type { LineChange } from "./useLineChange";

const CORNERS = [
  { value: "round" as const, label: "Round" },
  { value: "mitre" as const, label: "Pointed" },
  { value: "bevel" as const, label: "Cut off" },
];
const HELD = { value: "held" as const, label: "Its own", title: "The cut line that the drawing holds" };
const SHAPES = [
  { value: "contour" as const, label: "Contour" },
  { value: "circle" as const, label: "Circle" },
  { value: "ellipse" as const, label: "Oval" },
  { value: "rectangle" as const, label: "Box" },
  { value: "rounded" as const, label: "Rounded", title: "A box with round corners" },
];

/** The piece's own line: what it follows, how far from the art, and how it goes round corners. */
export function BorderSection({ change, one, lines, held }: { change: LineChange; one: LineChange; lines: Lines | undefined; held: string }) {
  const { shown, now, keep, attempt } = change;
  const { length } = useUnits();
  const border = shown?.border_mm ?? 0;
  const joins = lines?.joins_at_mm;
  const joining = joins == null ? null : Math.ceil((joins + 0.01) * 20) / 20;
  // Other pieces hold no line of their own, or another.
  const follow = (shape: LineRecipe["shape"]) =>
    shape === "held" ? one.keep("Its own line", {}, { shape }) : keep(`Line: ${shape}`, {}, { shape });
  return (
    <Section title="Border and cut line">
      <Row>
        <Choice label="Line follows" value={now.shape} options={held ? [HELD, ...SHAPES] : SHAPES} onChange={follow} />
      </Row>
      {now.shape === "held" ? (
        <p className="px-3.5 pb-1 text-quiet">The line is “{held}” as drawn: no border is added, and no bend is smoothed.</p>
      ) : (
        <>
          <LengthField
            label={border < 0 ? "Inside the art's edge" : "White border"}
            mm={border}
            min={-20}
            max={20}
            from={-2}
            reach={8}
            colour="var(--color-kiss)"
            onMove={(mm) => attempt({ border_mm: mm })}
            onKeep={(mm) => keep(`Border ${length(mm)}`, { border_mm: mm })}
          />
          {shown && <SafeBorder design={shown.id} border={border} onTake={(mm) => keep(`Border ${length(mm)}`, { border_mm: mm })} />}
          {now.shape === "contour" && (
            <Row>
              <span className="text-quiet">Corners</span>
              <Choice label="Corners" value={now.corner} options={CORNERS} onChange={(corner) => keep(`Corners: ${corner}`, {}, { corner })} />
            </Row>
          )}
          <LengthField
            label="Minimum bend radius"
            mm={shown?.lines?.radius_mm ?? now.radius_mm}
            min={0}
            max={20}
            reach={4}
            step={0.05}
            colour="var(--color-kiss)"
            onMove={(mm) => attempt({}, { radius_mm: mm })}
            onKeep={(mm) => keep(`Bends of ${length(mm)} or more`, {}, { radius_mm: mm })}
          />
        </>
      )}
      {lines && (
        <Figures
          items={[
            { value: lines.pieces, label: lines.pieces === 1 ? "piece" : "loose pieces" },
            { value: lines.holes, label: lines.holes === 1 ? "hole cut out" : "holes cut out" },
            { value: lines.nodes, label: `nodes of ${lines.nodes_before}` },
          ]}
        />
      )}
      {lines && joining !== null && (lines.pieces > 1 || now.bridge_mm > 0) && (
        <div className="px-3.5 py-1">
          <p className="pb-1.5 text-[12.5px] text-quiet">Its parts join at a border of {length(joining)}, or at a thinner one with bridges between them.</p>
          <div className="flex flex-wrap gap-2">
            {border < joining && now.bridge_mm < joining - border && (
              <Button onClick={() => keep("Bridges", {}, { bridge_mm: Math.min(20, Math.ceil((joining - border + 0.05) * 20) / 20) })}>Bridge them</Button>
            )}
            {now.bridge_mm > 0 && <Button onClick={() => keep("No bridges", {}, { bridge_mm: 0 })}>No bridges</Button>}
          </div>
        </div>
      )}
    </Section>
  );
}
