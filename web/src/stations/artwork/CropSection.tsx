import { Crop as CropIcon } from "lucide-react";
import { useState } from "react";

import type { Crop, Design, DesignFacts } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Fold } from "../../ui/Fold";
import { LengthField } from "../../ui/LengthField";
import { Row } from "../../ui/Reading";
import { useUnits } from "../../ui/units";
import { asCrop, largest, type Rect, stretchInto, stretchWords } from "./crop";
import { type Tool, ToolButton } from "./tools";
import { useMend } from "./useMend";

interface Props {
  design: Design;
  facts: DesignFacts;
  tool: Tool;
  setTool: (tool: Tool) => void;
  rect: Rect | null;
  setRect: (rect: Rect | null, aspect: number | null) => void;
}

/** Crop freely or to an exact box; whoever insists on stretching sees by how much. */
export function CropSection({ design, facts, tool, setTool, rect, setRect }: Props) {
  const { mend, keep } = useMend(design);
  const { size } = useUnits();
  const picture = facts.artwork.came_px as [number, number];
  const [mode, setMode] = useState<"free" | "box">("free");
  const [box, setBox] = useState<[number, number]>([Math.round(facts.width_mm), Math.round(facts.height_mm)]);
  const inHand = tool.kind === "crop";
  const stretched = stretchWords(stretchInto(picture, box).stretch);
  const now = mend.crop && stretchWords(mend.crop.stretch);

  const take = (next: "free" | "box", sides = box) => {
    setMode(next);
    const aspect = next === "box" ? sides[0] / sides[1] : null;
    setRect(aspect ? largest(picture, aspect) : rect ?? cropOf(mend.crop, picture), aspect);
  };
  const done = (label: string, crop: ReturnType<typeof asCrop>, longest?: number) =>
    void keep(label, { crop }, longest ? { longest_mm: Math.min(400, Math.max(5, longest)) } : {}).then(() => setTool({ kind: "none" }));

  return (
    <Fold title="Crop" told={mend.crop ? (now ? `cropped, ${now}` : "cropped") : "whole picture"} open={inHand}>
      <div className="flex flex-wrap gap-2 px-3.5 py-1">
        <ToolButton
          tool={tool}
          wants={{ kind: "crop" }}
          setTool={(next) => {
            setTool(next);
            if (next.kind === "crop") take(mode);
            else setRect(null, null);
          }}
          icon={<CropIcon size={14} aria-hidden />}
        >
          {inHand ? "Close the crop frame" : "Crop on the table"}
        </ToolButton>
        {mend.crop && !inHand && <Button onClick={() => void keep("The whole picture", { crop: null })}>Whole picture</Button>}
      </div>
      {inHand && rect && (
        <>
          <Row>
            <span className="text-quiet">Cut to</span>
            <Choice label="Cut to" value={mode} options={[{ value: "free", label: "Free" }, { value: "box", label: "Exact box" }]} onChange={(next) => take(next)} />
          </Row>
          {mode === "box" && (
            <>
              {(["Box width", "Box height"] as const).map((label, n) => (
                <LengthField
                  key={label}
                  label={label}
                  mm={box[n]!}
                  min={5}
                  max={400}
                  reach={200}
                  step={0.5}
                  onKeep={(mm) => {
                    const next: [number, number] = n === 0 ? [mm, box[1]] : [box[0], mm];
                    setBox(next);
                    take("box", next);
                  }}
                />
              ))}
            </>
          )}
          <div className="flex flex-wrap gap-2 px-3.5 py-1">
            <Button kind="act" onClick={() => done(mode === "box" ? `Crop to ${size(box[0], box[1])}` : "Crop", asCrop(rect), mode === "box" ? Math.max(...box) : undefined)}>
              {mode === "box" ? "Crop to this box" : "Crop to this"}
            </Button>
            {mode === "box" && stretched && (
              <Button onClick={() => done(`Stretch into ${size(box[0], box[1])}`, stretchInto(picture, box), Math.max(...box))}>Stretch: {stretched}</Button>
            )}
          </div>
          <p className="px-3.5 text-[12.5px] text-quiet">Drag the frame or a corner of it. Cropping keeps the picture true{stretched && mode === "box" ? `; stretching would draw it ${stretched} than it is` : ""}.</p>
        </>
      )}
    </Fold>
  );
}

const cropOf = (crop: Crop | null | undefined, [width, height]: [number, number]): Rect =>
  crop
    ? { left: crop.left_px, top: crop.top_px, width: crop.width_px, height: crop.height_px }
    : { left: width * 0.05, top: height * 0.05, width: width * 0.9, height: height * 0.9 };
