import { Trash2 } from "lucide-react";

import type { ExtraLine } from "../../api/client";
import { Button } from "../../ui/Button";
import { Fold } from "../../ui/Fold";
import { LengthField } from "../../ui/LengthField";
import { count } from "../../job/stubs";
import type { LineChange } from "./useLineChange";

const PROCESSES: { value: ExtraLine["process"]; label: string }[] = [
  { value: "weed", label: "Weed" },
  { value: "crease", label: "Crease" },
  { value: "kiss", label: "Kiss" },
  { value: "perforate", label: "Perforate" },
  { value: "through", label: "Through" },
];
const COURSES: { value: ExtraLine["of"]; label: string }[] = [
  { value: "box", label: "a box round it" },
  { value: "ellipse", label: "an oval round it" },
  { value: "art", label: "the art" },
  { value: "own", label: "its own line" },
  { value: "outer", label: "its outer line" },
  { value: "level", label: "straight across" },
  { value: "upright", label: "straight down" },
];
const STRAIGHT = ["level", "upright"];
const MOST = 8;

/** Weed boxes, folds, and any other line at an offset of the art, of another line, or of a shape. */
export function FurtherSection({ change }: { change: LineChange }) {
  const { shown, now, keep, attempt } = change;
  const extras = shown?.lines?.extras ?? now.extras;
  const at = (index: number, changes: Partial<ExtraLine>) => extras.map((each, n) => (n === index ? { ...each, ...changes } : each));
  const add = (extra: ExtraLine, label: string) => keep(label, {}, { extras: [...now.extras, extra] });
  const pick = "min-w-0 rounded-md border border-rule bg-paper px-1.5 py-1 text-[13px]";
  return (
    <Fold title="Weed, crease and more lines" told={extras.length ? count(extras.length, "line") : "none"}>
      {extras.map((extra, index) => (
        <div key={index} className="mx-3.5 my-1.5 rounded-md border border-rule bg-paper pb-1">
          <div className="flex items-center gap-1.5 p-1.5">
            <select aria-label={`Line ${index + 1} does`} className={pick} value={extra.process} onChange={(event) => keep("Further line", {}, { extras: at(index, { process: event.target.value as ExtraLine["process"] }) })}>
              {PROCESSES.map((each) => <option key={each.value} value={each.value}>{each.label}</option>)}
            </select>
            <select aria-label={`Line ${index + 1} follows`} className={`${pick} grow`} value={extra.of} onChange={(event) => keep("Further line", {}, { extras: at(index, { of: event.target.value as ExtraLine["of"] }) })}>
              {COURSES.map((each) => <option key={each.value} value={each.value}>{each.label}</option>)}
            </select>
            <button type="button" aria-label={`Remove line ${index + 1}`} className="rounded p-1 text-quiet hover:bg-stop-pale hover:text-stop" onClick={() => keep("Remove a line", {}, { extras: now.extras.filter((_, n) => n !== index) })}>
              <Trash2 size={14} />
            </button>
          </div>
          <LengthField
            label={STRAIGHT.includes(extra.of) ? "From the middle" : "Outside it"}
            mm={extra.offset_mm ?? 3}
            min={-200}
            max={50}
            from={STRAIGHT.includes(extra.of) ? -40 : -10}
            reach={STRAIGHT.includes(extra.of) ? 40 : 15}
            step={0.1}
            onMove={(mm) => attempt({}, { extras: at(index, { offset_mm: mm }) })}
            onKeep={(mm) => keep("Further line", {}, { extras: at(index, { offset_mm: mm }) })}
          />
        </div>
      ))}
      {extras.length < MOST && (
        <div className="flex flex-wrap gap-1.5 px-3.5 py-1">
          <Button kind="quiet" onClick={() => add({ process: "weed", of: "box", offset_mm: 3 }, "Weed box")}>Weed box</Button>
          <Button kind="quiet" onClick={() => add({ process: "crease", of: "level", offset_mm: 0 }, "Fold")}>Fold across</Button>
          <Button kind="quiet" onClick={() => add({ process: "kiss", of: "art", offset_mm: -2 }, "Further line")}>Another line</Button>
        </div>
      )}
      <p className="px-3.5 text-[12.5px] text-quiet">Weed lines cut as deep as a kiss. A crease is pressed, not cut. Both are done before anything is cut through.</p>
    </Fold>
  );
}
