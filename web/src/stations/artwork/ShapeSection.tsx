import type { Backing, Design, DesignFacts, Frame } from "../../api/client";
import { Choice } from "../../ui/Choice";
import { ColourField } from "../../ui/ColourField";
import { Fold } from "../../ui/Fold";
import { LengthField } from "../../ui/LengthField";
import { Row } from "../../ui/Reading";
import { useMend } from "./useMend";

const SHAPES = [
  { value: "none" as const, label: "None" },
  { value: "rectangle" as const, label: "Box" },
  { value: "rounded" as const, label: "Rounded box" },
  { value: "ellipse" as const, label: "Oval" },
  { value: "circle" as const, label: "Circle" },
];
const NAMES: Record<string, string> = { rectangle: "box", rounded: "rounded box", ellipse: "oval", circle: "circle" };
const FRAME: Frame = { shape: "rounded", radius_mm: 4, border_mm: 0, border: "outside", colour: "#ffffff" };
const BACKING: Backing = { shape: "circle", margin_mm: 3, radius_mm: 4, colour: "#ffffff" };

/** A frame for pictures that are solid all over, a shape behind art that is clear. */
export function ShapeSection({ design, facts }: { design: Design; facts: DesignFacts }) {
  const { mend } = useMend(design);
  const solid = facts.artwork.background === "opaque" && !mend.backing;
  if (mend.frame || solid) return <FrameFold design={design} needed={facts.artwork.verdict === "photograph"} />;
  return <BackingFold design={design} />;
}

function FrameFold({ design, needed }: { design: Design; needed: boolean }) {
  const { mend, keep } = useMend(design);
  const frame = mend.frame;
  const set = (label: string, changes: Partial<Frame>) => void keep(label, { frame: { ...FRAME, ...frame, ...changes } });
  return (
    <Fold title="Frame" told={frame ? NAMES[frame.shape] : "none"} open={needed || Boolean(frame)}>
      <Row>
        <Choice
          label="Frame"
          value={frame?.shape ?? "none"}
          options={SHAPES}
          onChange={(shape) => (shape === "none" ? void keep("No frame", { frame: null }) : set(`Frame: ${NAMES[shape]}`, { shape }))}
        />
      </Row>
      {frame && (
        <>
          {frame.shape === "rounded" && (
            <LengthField label="Corner radius" mm={frame.radius_mm} min={0} max={40} reach={20} step={0.5} onKeep={(mm) => set(`Radius ${mm} mm`, { radius_mm: mm })} />
          )}
          <LengthField label="Border" mm={frame.border_mm} min={0} max={40} reach={8} step={0.5} onKeep={(mm) => set(`Frame border ${mm} mm`, { border_mm: mm })} />
          {frame.border_mm > 0 && (
            <>
              <Row>
                <span className="text-quiet">Border position</span>
                <Choice
                  label="Border position"
                  value={frame.border}
                  options={[{ value: "outside", label: "Outside" }, { value: "inside", label: "Inside" }]}
                  onChange={(border) => set(`Border ${border}`, { border })}
                />
              </Row>
              <ColourField label="Border colour" value={frame.colour} onKeep={(colour) => set("Border colour", { colour })} />
            </>
          )}
        </>
      )}
    </Fold>
  );
}

function BackingFold({ design }: { design: Design }) {
  const { mend, keep } = useMend(design);
  const backing = mend.backing;
  const set = (label: string, changes: Partial<Backing>) => void keep(label, { backing: { ...BACKING, ...backing, ...changes } });
  return (
    <Fold title="Backing shape" told={backing ? NAMES[backing.shape] : "none"} open={Boolean(backing)}>
      <Row>
        <Choice
          label="Backing shape"
          value={backing?.shape ?? "none"}
          options={SHAPES}
          onChange={(shape) => (shape === "none" ? void keep("No backing shape", { backing: null }) : set(`Backing: ${NAMES[shape]}`, { shape }))}
        />
      </Row>
      {backing && (
        <>
          <LengthField label="Margin round the art" mm={backing.margin_mm} min={0} max={60} reach={12} step={0.5} onKeep={(mm) => set(`Margin ${mm} mm`, { margin_mm: mm })} />
          {backing.shape === "rounded" && (
            <LengthField label="Corner radius" mm={backing.radius_mm} min={0} max={40} reach={20} step={0.5} onKeep={(mm) => set(`Radius ${mm} mm`, { radius_mm: mm })} />
          )}
          <ColourField label="Colour" value={backing.colour} onKeep={(colour) => set("Backing colour", { colour })} />
        </>
      )}
    </Fold>
  );
}
