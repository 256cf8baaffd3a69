import { Eraser, Paintbrush, ScanEye } from "lucide-react";

import type { Design, DesignFacts } from "../../api/client";
import { Fold } from "../../ui/Fold";
import { LengthField } from "../../ui/LengthField";
import { Reading } from "../../ui/Reading";
import { useUnits } from "../../ui/units";
import { count } from "../../job/stubs";
import { placesOf } from "./places";
import { type Tool, ToolButton } from "./tools";
import { isGone, speckLabel, toggled } from "./specks";
import { useMend } from "./useMend";

interface Props {
  design: Design;
  facts: DesignFacts;
  tool: Tool;
  setTool: (tool: Tool) => void;
  brushMm: number;
  setBrushMm: (mm: number) => void;
}

/** Specks by size and one by one; eraser and restore brush for what no rule catches. */
export function CleanSection({ design, facts, tool, setTool, brushMm, setBrushMm }: Props) {
  const { mend, keep } = useMend(design);
  const { area } = useUnits();
  const { mmPerPx } = placesOf(facts, design.longest_mm ?? 60);
  const { loose } = facts.artwork;
  const mm2 = mmPerPx * mmPerPx;
  const gone = loose.filter((part) => isGone(part, mend)).length;
  const told = [loose.length && `${count(loose.length, "loose part")}`, mend.strokes.length && count(mend.strokes.length, "stroke")].filter(Boolean).join(", ");
  return (
    <Fold title="Specks and brush" told={told || "no loose parts"} open={tool.kind === "specks"}>
      <div className="flex flex-wrap gap-1.5 px-3.5 py-1">
        <ToolButton tool={tool} wants={{ kind: "specks" }} setTool={setTool} icon={<ScanEye size={14} aria-hidden />}>Pick specks</ToolButton>
        <ToolButton tool={tool} wants={{ kind: "erase" }} setTool={setTool} icon={<Eraser size={14} aria-hidden />}>Eraser</ToolButton>
        <ToolButton tool={tool} wants={{ kind: "restore" }} setTool={setTool} icon={<Paintbrush size={14} aria-hidden />}>Restore</ToolButton>
      </div>
      {(tool.kind === "erase" || tool.kind === "restore") && (
        <LengthField label="Brush" mm={brushMm} min={0.2} max={60} reach={15} step={0.2} onMove={setBrushMm} onKeep={setBrushMm} />
      )}
      {mend.strokes.length > 0 && (
        <p className="px-3.5 py-0.5">
          <button type="button" className="text-act underline underline-offset-2" onClick={() => void keep("Remove brush strokes", { strokes: [] })}>
            Take all {count(mend.strokes.length, "stroke")} back
          </button>
        </p>
      )}
      {loose.length > 0 && (
        <>
          <Specklimit design={design} facts={facts} />
          <Reading label="Removed">{`${gone} of ${loose.length}`}</Reading>
          <ul aria-label="Loose parts" className="mx-3.5 max-h-40 overflow-y-auto rounded-md border border-rule bg-paper text-[12.5px]">
            {loose.map((part) => (
              <li key={part.place.join()} className="flex items-center justify-between border-b border-rule px-2 py-0.5 last:border-b-0">
                <span className={isGone(part, mend) ? "text-quiet line-through" : ""}>{area(part.area_px * mm2)}</span>
                <button
                  type="button"
                  className="rounded px-1.5 py-0.5 text-act underline underline-offset-2 hover:bg-act-pale"
                  aria-label={`${isGone(part, mend) ? "Keep" : "Remove"} the part of ${area(part.area_px * mm2)}`}
                  onClick={() => void keep(speckLabel(part, mend), toggled(part, mend))}
                >
                  {isGone(part, mend) ? "Keep" : "Remove"}
                </button>
              </li>
            ))}
          </ul>
        </>
      )}
    </Fold>
  );
}

/** The area below which loose parts go; steps run evenly on a ruler of lengths, so small specks get room. */
function Specklimit({ design, facts }: { design: Design; facts: DesignFacts }) {
  const { mend, keep } = useMend(design);
  const { mmPerPx } = placesOf(facts, design.longest_mm ?? 60);
  const across = Math.sqrt(mend.specks_px2) * mmPerPx;
  return (
    <LengthField
      label="Remove smaller than"
      mm={Math.round(across * 100) / 100}
      min={0}
      max={20}
      reach={4}
      step={0.05}
      onKeep={(mm) => void keep(`Specks under ${mm} mm across`, { specks_px2: Math.round((mm / mmPerPx) ** 2 * 10) / 10 })}
    />
  );
}
