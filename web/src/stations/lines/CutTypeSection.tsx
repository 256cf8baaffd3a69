import { ToggleGroup } from "radix-ui";

import type { Lines } from "../../api/client";
import { CUT_TYPES, type CutType, cutTypeOf, withCutType } from "../../job/cutType";
import { Button } from "../../ui/Button";
import { LengthField } from "../../ui/LengthField";
import { Reading, Section } from "../../ui/Reading";
import { useUnits } from "../../ui/units";
import { CutTypePicture } from "./CutTypePicture";
import type { LineChange } from "./useLineChange";
import { useUsualCutType } from "./UsualCutType";

const VERDICTS: Record<string, string> = { "falls out": "text-stop", holds: "text-good", "hard to pop": "text-look" };

/** The cut type by its picture, and the line around the piece. */
export function CutTypeSection({ change, lines }: { change: LineChange; lines: Lines | undefined }) {
  const { shown, now, keep, attempt } = change;
  const { length } = useUnits();
  const peel = shown?.peel_mm;
  const type = cutTypeOf(now, peel);
  const choose = (next: CutType) => keep(CUT_TYPES.find((each) => each.value === next)!.label, ...withCutType(next, now, peel));
  const { habit, keep: keepUsual } = useUsualCutType();
  const told = lines?.perforation;
  return (
    <Section title="Cut type">
      <ToggleGroup.Root type="single" value={type} aria-label="Cut type" onValueChange={(next) => next && choose(next as CutType)} className="grid grid-cols-3 gap-1 px-2.5 pb-1">
        {CUT_TYPES.map(({ value, label, told: title }) => (
          <ToggleGroup.Item
            key={value}
            value={value}
            title={title}
            className="grid justify-items-center rounded-md border border-rule bg-paper py-1 text-[13px] hover:bg-act-pale data-[state=on]:border-act data-[state=on]:bg-act-pale data-[state=on]:font-semibold"
          >
            <CutTypePicture type={value} />
            {label}
          </ToggleGroup.Item>
        ))}
      </ToggleGroup.Root>
      <p className="px-3.5 pb-1 text-[12.5px] text-quiet">{CUT_TYPES.find((each) => each.value === type)!.told}.</p>
      {habit && habit !== type && type !== "print" && (
        <p className="px-3.5 pb-1">
          <Button kind="quiet" onClick={() => void keepUsual(type)}>Use this for new jobs too</Button>
        </p>
      )}
      {peel != null && (
        <LengthField
          label={type === "tear_out" ? "Frame outside the kiss" : "Peel margin"}
          mm={peel}
          min={0.5}
          max={20}
          reach={8}
          colour="var(--color-through)"
          onMove={(mm) => attempt({ peel_mm: mm })}
          onKeep={(mm) => keep(`Peel margin ${length(mm)}`, { peel_mm: mm })}
        />
      )}
      {type === "tear_out" && (
        <>
          <LengthField label="Each cut" mm={shown?.lines?.cut_mm ?? now.cut_mm} min={0.5} max={30} reach={12} colour="#7a4b12" onMove={(mm) => attempt({}, { cut_mm: mm })} onKeep={(mm) => keep(`Cuts of ${length(mm)}`, {}, { cut_mm: mm })} />
          <LengthField label="Each tie" mm={shown?.lines?.tie_mm ?? now.tie_mm} min={0.2} max={5} reach={2} step={0.05} colour="#7a4b12" onMove={(mm) => attempt({}, { tie_mm: mm })} onKeep={(mm) => keep(`Ties of ${length(mm)}`, {}, { tie_mm: mm })} />
          {told && (
            <>
              <Reading label="Ties">{told.ties}</Reading>
              <Reading label="Hold"><b className={VERDICTS[told.verdict]}>{told.verdict}</b> · {(told.hold_index * 100).toFixed(0)} % · {(told.hold_gf / 1000).toFixed(1)} kgf</Reading>
            </>
          )}
        </>
      )}
    </Section>
  );
}
