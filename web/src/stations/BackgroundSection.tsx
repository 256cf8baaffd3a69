import { Slider } from "radix-ui";
import { useEffect, useState } from "react";

import type { Artwork, Design, Mend } from "../api/client";
import { useJob } from "../shop/job";
import { Button } from "../ui/Button";
import { Choice } from "../ui/Choice";
import { Row, Section } from "../ui/Reading";

const VERDICTS: Record<Artwork["verdict"], string> = {
  clear: "Clear",
  feathered: "Clear, with soft edges",
  plain: "One plain colour",
  checkerboard: "Painted checkerboard",
  photograph: "A picture all over",
};

const FRAMES = [
  { value: "none" as const, label: "None" },
  { value: "rectangle" as const, label: "Box" },
  { value: "rounded" as const, label: "Round" },
  { value: "ellipse" as const, label: "Oval" },
  { value: "circle" as const, label: "Circle" },
];

const isMended = (mend: Mend | undefined) =>
  Boolean(mend && (mend.background !== "as_is" || mend.frame || mend.specks_px2));

/** What a list says of a picture's background in a word. */
export function shortVerdict(artwork: Artwork, mend: Mend | undefined): string {
  if (mend?.background && mend.background !== "as_is") return "removed";
  if (mend?.frame) return "framed";
  return artwork.verdict === "clear" || artwork.verdict === "feathered" ? "clear" : "not clear";
}

/** The verdict on the background and what can be done about it; every change is a step, the original stays. */
export function BackgroundSection({ design, artwork, onTry }: { design: Design; artwork: Artwork; onTry: (tolerance: number | null) => void }) {
  const { change } = useJob();
  const mend = design.mend;
  const keep = (label: string, changes: Partial<Mend>) =>
    void change(`${label}, ${design.name}`, (recipe) => ({
      ...recipe,
      designs: (recipe.designs ?? []).map((each) => (each.id === design.id ? { ...each, mend: { ...each.mend!, ...changes } } : each)),
    }));
  const removable = artwork.verdict === "plain" || artwork.verdict === "checkerboard";
  const solid = removable || artwork.verdict === "photograph";
  const removed = mend?.background !== undefined && mend.background !== "as_is";

  return (
    <Section title="Background">
      <p className="px-3.5 pb-1">
        <b>{VERDICTS[artwork.verdict]}.</b> <span className="text-quiet">{artwork.reason}</span>
      </p>
      {artwork.notes.map((note) => <p key={note} className="px-3.5 pb-1 text-[12.5px] text-quiet">{note}</p>)}
      {removable && (
        <Row>
          <span className="text-quiet">Background</span>
          <Choice
            label="Background"
            value={removed ? "gone" : "as_is"}
            options={[{ value: "as_is", label: "As it is" }, { value: "gone", label: "Removed" }]}
            onChange={(next) =>
              keep(next === "gone" ? "Remove the background" : "Background as it is", {
                background: next === "gone" ? (artwork.verdict as "plain" | "checkerboard") : "as_is",
                knock_out: [],
              })
            }
          />
        </Row>
      )}
      {removed && (
        <Tolerance
          value={mend?.tolerance ?? 12}
          onMove={(tolerance) => artwork.verdict === "plain" && onTry(tolerance)}
          onKeep={(tolerance) => keep(`Tolerance ${tolerance}`, { tolerance, knock_out: [] })}
        />
      )}
      {solid && !removed && (
        <div className="px-3.5 py-1">
          <span className="block pb-1 text-quiet">Frame</span>
          <Choice
            label="Frame"
            value={mend?.frame?.shape ?? "none"}
            options={FRAMES}
            onChange={(shape) => keep(shape === "none" ? "No frame" : `Frame: ${shape}`, { frame: shape === "none" ? null : { shape, radius_pct: 8 } })}
          />
        </div>
      )}
      {isMended(mend) && (
        <div className="px-3.5 pt-0.5 pb-1">
          <Button
            kind="quiet"
            onClick={() => keep("The picture as it came", { background: "as_is", frame: null, specks_px2: 0, knock_out: [], keep: [] })}
          >
            Back to the picture as it came
          </Button>
        </div>
      )}
    </Section>
  );
}

/** How far from the background's colour still counts as background. */
function Tolerance({ value, onMove, onKeep }: { value: number; onMove: (value: number) => void; onKeep: (value: number) => void }) {
  const [now, setNow] = useState(value);
  useEffect(() => setNow(value), [value]);
  return (
    <div className="px-3.5 py-1">
      <div className="flex justify-between">
        <span className="text-quiet">Tolerance</span>
        <span className="figure text-[13px]">{now}</span>
      </div>
      <Slider.Root
        className="relative flex h-6 touch-none items-center select-none"
        min={1}
        max={40}
        step={1}
        value={[now]}
        onValueChange={([next]) => {
          if (next === undefined) return;
          setNow(next);
          onMove(next);
        }}
        onValueCommit={([next]) => next !== undefined && next !== value && onKeep(next)}
      >
        <Slider.Track className="relative h-1 grow rounded bg-[#cfd9d4]">
          <Slider.Range className="absolute h-full rounded bg-act" />
        </Slider.Track>
        <Slider.Thumb aria-label="Tolerance" className="block size-4 rounded-full border-2 border-act bg-paper hover:scale-110" />
      </Slider.Root>
    </div>
  );
}
