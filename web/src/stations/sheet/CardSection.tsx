import { useState } from "react";

import { call, type Schemas, type SheetRecipe } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { ColourField } from "../../ui/ColourField";
import { CountField } from "../../ui/CountField";
import { Fold } from "../../ui/Fold";
import { LengthField } from "../../ui/LengthField";
import { useNotice } from "../../ui/Notice";
import { Row } from "../../ui/Reading";
import { TextField } from "../../ui/TextField";
import { Toggle } from "../../ui/Toggle";
import { useUnits } from "../../ui/units";

type Card = Schemas["CardRecipe"];

const FIRST: Card = { width_mm: 92, height_mm: 130, radius_mm: 5, margin_mm: 4, colour: "#cfe3dd", heading: "", heading_mm: 5, heading_colour: "#16211f", cut: "through", copies: 1, spread: true };
const CUTS = [{ value: "through" as const, label: "Through" }, { value: "perforate" as const, label: "Perforated" }];

/** A theme sheet: the pieces on a printed card with a heading, cards side by side on the sheet. */
export function CardSection({ keep }: { keep: (label: string, changes: Partial<SheetRecipe>) => void }) {
  const { job, change } = useJob();
  const tell = useNotice();
  const [growing, setGrowing] = useState(false);
  const { size } = useUnits();
  const sheet = job.recipe.sheet!;
  const card = sheet.card ?? null;
  const set = (label: string, changes: Partial<Card>) => keep(label, { card: { ...FIRST, ...card, ...changes } });
  const grow = async () => {
    setGrowing(true);
    try {
      const sizes = await call("post_grown", { body: job.recipe });
      await change("Pieces grown to fill the card", (before) => ({
        ...before,
        designs: (before.designs ?? []).map((each) => ({ ...each, longest_mm: sizes[each.id] ?? each.longest_mm })),
      }));
    } catch (problem) {
      tell(problem);
    }
    setGrowing(false);
  };
  return (
    <Fold title="Theme sheet" told={card ? size(card.width_mm!, card.height_mm!, 0) : undefined} open={Boolean(card)}>
      <Toggle label="Pieces on a card" on={card !== null} onChange={(on) => keep(on ? "Theme sheet" : "No theme sheet", { placements: [], method: sheet.method === "nest" ? "nest" : "rows", card: on ? { ...FIRST, heading: job.title.slice(0, 80) } : null })} />
      {card && (
        <>
          <TextField label="Heading" value={card.heading ?? ""} hint="River birds" max={80} onKeep={(heading) => set("Heading", { heading })} />
          <LengthField label="Width of the card" mm={card.width_mm ?? 92} min={20} max={1000} reach={300} onKeep={(mm) => set("Width of the card", { width_mm: mm })} />
          <LengthField label="Height of the card" mm={card.height_mm ?? 130} min={20} max={1000} reach={300} onKeep={(mm) => set("Height of the card", { height_mm: mm })} />
          <LengthField label="Rounded corners" mm={card.radius_mm ?? 5} min={0} max={60} reach={20} onKeep={(mm) => set("Corners of the card", { radius_mm: mm })} />
          <LengthField label="Margin on the card" mm={card.margin_mm ?? 4} min={0} max={40} reach={15} onKeep={(mm) => set("Margin on the card", { margin_mm: mm })} />
          <LengthField label="Height of the heading" mm={card.heading_mm ?? 5} min={1.5} max={40} reach={15} onKeep={(mm) => set("Height of the heading", { heading_mm: mm })} />
          <ColourField label="Ground" value={card.colour ?? "#cfe3dd"} onKeep={(colour) => set("Ground of the card", { colour })} />
          <ColourField label="Colour of the heading" value={card.heading_colour ?? "#16211f"} onKeep={(heading_colour) => set("Colour of the heading", { heading_colour })} />
          <Row>
            <span className="text-quiet">Card edge</span>
            <Choice label="Card edge" value={card.cut ?? "through"} options={CUTS} onChange={(cut) => set("How the card is cut", { cut })} />
          </Row>
          <Toggle label="Pieces spread over the card" on={card.spread ?? false} onChange={(spread) => set(spread ? "Pieces spread over the card" : "Pieces close together", { spread })} />
          <p className="px-3.5 py-1">
            <Button disabled={growing} onClick={() => void grow()}>{growing ? "Trying sizes …" : "Grow the pieces to fill it"}</Button>
          </p>
          {!sheet.fill && <CountField label="Cards" value={card.copies ?? 1} min={1} max={2000} onKeep={(copies) => set(`${copies} cards`, { copies })} />}
          <p className="px-3.5 pb-1 text-[12.5px] text-quiet">Copies of a piece are counted on one card. Its white border is twice its own, so that the kiss line runs in the middle of it.</p>
        </>
      )}
    </Fold>
  );
}
