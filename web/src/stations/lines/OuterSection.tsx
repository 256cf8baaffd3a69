import type { Lines } from "../../api/client";
import { comesOff } from "../../job/comesOff";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { LengthField } from "../../ui/LengthField";
import { Reading, Row, Section } from "../../ui/Reading";
import { useUnits } from "../../ui/units";
import { useHabit } from "./ComesOffSection";
import type { LineChange } from "./useLineChange";

const SETS = [
  { value: "kiss" as const, label: "Kiss", title: "The sticker peels from its sheet" },
  { value: "peel" as const, label: "Peel edge", title: "Kiss, and a through line a little outside" },
  { value: "die" as const, label: "Through", title: "Single stickers, cut through everything" },
  { value: "pop" as const, label: "Tear-out", title: "Kiss inside a perforated frame" },
  { value: "print" as const, label: "Print only", title: "Printed, and never cut" },
];
type Set = (typeof SETS)[number]["value"];

const VERDICTS: Record<string, string> = { "falls out": "text-stop", holds: "text-good", "hard to pop": "text-look" };

/** The set of lines, and the line around the piece. */
export function OuterSection({ change, lines }: { change: LineChange; lines: Lines | undefined }) {
  const { shown, now, keep, attempt } = change;
  const { length } = useUnits();
  const peel = shown?.peel_mm;
  const set: Set = now.own === "none" ? "print" : now.own === "through" ? "die" : peel == null ? "kiss" : now.outer === "perforate" ? "pop" : "peel";
  const choose = (next: Set) => {
    const label = SETS.find((each) => each.value === next)!.label;
    if (next === "kiss") keep(label, { peel_mm: null }, { own: "kiss" });
    else if (next === "print") keep(label, { peel_mm: null }, { own: "none" });
    else if (next === "die") keep(label, { peel_mm: null }, { own: "through" });
    else keep(label, { peel_mm: peel ?? 3 }, { own: "kiss", outer: next === "pop" ? "perforate" : "through" });
  };
  const { habit, keep: keepHabit } = useHabit();
  const way = comesOff(now, peel);
  const told = lines?.perforation;
  return (
    <Section title="Line set">
      <Row><Choice label="Line set" value={set} options={SETS} onChange={choose} /></Row>
      {set === "print" && <p className="px-3.5 pb-1 text-quiet">It has its place on the sheet and is printed; no blade comes near it.</p>}
      {habit && habit !== way && set !== "print" && (
        <p className="px-3.5 pb-1">
          <Button kind="quiet" onClick={() => void keepHabit(way)}>New jobs come off like this too</Button>
        </p>
      )}
      {peel != null && (
        <LengthField
          label={set === "pop" ? "Frame outside the kiss" : "Peel margin"}
          mm={peel}
          min={0.5}
          max={20}
          reach={8}
          colour="var(--color-through)"
          onMove={(mm) => attempt({ peel_mm: mm })}
          onKeep={(mm) => keep(`Peel margin ${length(mm)}`, { peel_mm: mm })}
        />
      )}
      {set === "pop" && (
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
