import { Lock, LockOpen } from "lucide-react";

import type { Sheets, SheetRecipe } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { Fold } from "../../ui/Fold";
import { Reading } from "../../ui/Reading";
import { useUnits } from "../../ui/units";
import { count } from "../../job/stubs";
import { placesOf } from "./places";
import type { LayoutHand } from "./useLayoutHand";

interface Props {
  sheets: Sheets;
  layout: LayoutHand;
  keep: (label: string, changes: Partial<SheetRecipe>) => void;
}

/** Places set by hand: what is chosen, what is locked, and the rest filled again round it. */
export function HandSection({ sheets, layout, keep }: Props) {
  const { job } = useJob();
  const { length } = useUnits();
  const byHand = job.recipe.sheet?.method === "hand";
  const places = placesOf(sheets);
  const locked = places.filter((stand) => stand.locked).length;
  const { place } = layout;
  const name = job.recipe.designs?.find((each) => each.id === place?.design)?.name;
  const told = locked ? `${locked} locked` : byHand ? "set by hand" : undefined;
  const refill = (method: "rows" | "nest") => keep(method === "rows" ? "Refill with rows" : "Nest the rest", { method, placements: places.filter((stand) => stand.locked) });
  return (
    <Fold title="By hand" told={told} open={layout.active || byHand}>
      <p className="flex flex-wrap gap-1.5 px-3.5 pb-1">
        <Button kind={layout.active ? "act" : "plain"} aria-pressed={layout.active} onClick={() => layout.setActive(!layout.active)}>Move pieces</Button>
        {layout.active && <Button onClick={() => layout.step(1)}>Next piece</Button>}
      </p>
      {layout.active && !place && <p className="px-3.5 pb-1 text-[12.5px] text-quiet">Choose a piece on the table.</p>}
      {layout.active && place && (
        <>
          <Reading label={name}>
            {length((place.box[0]! + place.box[2]!) / 2)}, {length((place.box[1]! + place.box[3]!) / 2)}
          </Reading>
          <Reading label="Turned">{Math.round(place.rotation_deg * 10) / 10}°</Reading>
          <p className="flex flex-wrap gap-1.5 px-3.5 pb-1">
            <Button onClick={() => layout.turn(90)}>Turn</Button>
            <Button onClick={layout.lock} aria-pressed={place.locked}>
              <span className="inline-flex items-center gap-1">
                {place.locked ? <LockOpen size={13} aria-hidden /> : <Lock size={13} aria-hidden />}
                {place.locked ? "Unlock" : "Lock"}
              </span>
            </Button>
            <Button onClick={layout.double}>One more</Button>
            <Button kind="stop" onClick={layout.takeOff}>Take off</Button>
          </p>
        </>
      )}
      {(locked > 0 || byHand) && (
        <>
          <p className="px-3.5 py-1 text-[12.5px] text-quiet">{locked ? `${count(locked, "locked piece")} ${locked === 1 ? "keeps its" : "keep their"} place when the rest is filled again.` : "Lock pieces that are to stay, then fill the rest again."}</p>
          <p className="flex flex-wrap gap-1.5 px-3.5 pb-1">
            <Button onClick={() => refill("rows")}>Refill with rows</Button>
            <Button onClick={() => refill("nest")}>Nest the rest</Button>
          </p>
        </>
      )}
    </Fold>
  );
}
