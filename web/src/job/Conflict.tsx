import type { Recipe } from "../api/client";
import { Button } from "../ui/Button";
import { Dialog } from "../ui/Dialog";
import { useUnits } from "../ui/units";

export interface Clash {
  mine: Recipe;
  theirs: Recipe;
  revision: number;
  step: number;
  /** The step under which mine is kept whatever is chosen. */
  aside: number | null;
  label: string;
}

/** Both versions of a job that was changed in two places. */
export function Conflict({ clash, onKeepTheirs, onKeepMine }: { clash: Clash; onKeepTheirs: () => void; onKeepMine: () => void }) {
  return (
    <Dialog
      open
      onClose={onKeepTheirs}
      title="This job was changed in another window"
      description={`Step ${clash.step} was saved in another window.${clash.aside ? ` Yours is saved as step ${clash.aside}:` : ""} both stay among the steps. Choose one to continue with.`}
    >
      <div className="grid grid-cols-2 gap-3 p-4">
        <Version title="Saved elsewhere" recipe={clash.theirs} other={clash.mine} />
        <Version title={`Yours: ${clash.label}`} recipe={clash.mine} other={clash.theirs} />
        <Button onClick={onKeepTheirs}>Use theirs</Button>
        <Button kind="act" onClick={onKeepMine}>Use mine</Button>
      </div>
    </Dialog>
  );
}

function Version({ title, recipe, other }: { title: string; recipe: Recipe; other: Recipe }) {
  const { length } = useUnits();
  const told = (of: Recipe) => [
    `${of.sheet?.paper?.name ?? (of.sheet?.stock === "letter" ? "Letter" : "A4")}, ${of.sheet?.fill ? "filled" : "by number"}, gap ${length(of.sheet?.gap_mm ?? 0)}`,
    ...(of.designs ?? []).map(
      (design) =>
        `${design.name}: ${length(design.longest_mm ?? 0)}, border ${length(design.border_mm ?? 0)}, ` +
        `${design.peel_mm ? `peel ${length(design.peel_mm)}` : "no peel"}, ${design.copies} copies`,
    ),
  ];
  const others = new Set(told(other));
  return (
    <div className="rounded-md border border-rule bg-paper p-3">
      <h3 className="pb-1">{title}</h3>
      <ul className="max-h-48 overflow-auto text-[13px]">
        {told(recipe).map((text) => (
          <li key={text} className={others.has(text) ? "text-quiet" : "font-semibold"}>{text}</li>
        ))}
      </ul>
    </div>
  );
}
