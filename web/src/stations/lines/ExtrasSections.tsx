import { Button } from "../../ui/Button";
import { ColourField } from "../../ui/ColourField";
import { Fold } from "../../ui/Fold";
import { LengthField } from "../../ui/LengthField";
import { Toggle } from "../../ui/Toggle";
import { useUnits } from "../../ui/units";
import type { LineChange } from "./useLineChange";
import type { Placing } from "./usePlaceHand";

const TAB = { width_mm: 12, length_mm: 8 };
const HANG = { diameter_mm: 4, from_edge_mm: 4 };

interface Props {
  change: LineChange;
  placing: Placing;
  setPlacing: (placing: Placing) => void;
}

/** Bleed and coloured border, a tab to pull at, a hole to hang by. */
export function ExtrasSections({ change, placing, setPlacing }: Props) {
  const { shown, now, keep, attempt } = change;
  const { length } = useUnits();
  const { tab, hang } = now;
  const place = (what: "tab" | "hang") => (
    <p className="px-3.5 py-1">
      <Button kind={placing === what ? undefined : "quiet"} aria-pressed={placing === what} onClick={() => setPlacing(placing === what ? null : what)}>
        {placing === what ? "Done placing" : "Place it on the table"}
      </Button>
    </p>
  );
  return (
    <>
      <Fold title="Bleed and colour" told={now.border_colour ? "coloured border" : now.bleed_mm ? `bleed ${length(now.bleed_mm)}` : "white, no bleed"}>
        <LengthField label="Bleed" mm={shown?.lines?.bleed_mm ?? now.bleed_mm} min={0} max={10} reach={5} colour="#8db5af" onMove={(mm) => attempt({}, { bleed_mm: mm })} onKeep={(mm) => keep(`Bleed ${length(mm)}`, {}, { bleed_mm: mm })} />
        <Toggle label="Print the border in a colour" on={Boolean(now.border_colour)} onChange={(on) => keep(on ? "Coloured border" : "White border", {}, { border_colour: on ? "#0f5c57" : null })} />
        {now.border_colour && <ColourField label="Border colour" value={now.border_colour} onKeep={(border_colour) => keep("Border colour", {}, { border_colour })} />}
        <p className="px-3.5 text-[12.5px] text-quiet">Bleed carries the edge colour past the cut. Between two pieces it stops at half the gap.</p>
      </Fold>
      <Fold title="Pull tab" told={tab ? `${length(tab.width_mm, 0)} wide` : "none"}>
        <Toggle label="Add a pull tab" on={Boolean(tab)} onChange={(on) => keep(on ? "Pull tab" : "No pull tab", {}, { tab: on ? TAB : null })} />
        {tab && (
          <>
            <LengthField label="Width" mm={tab.width_mm} min={3} max={60} reach={30} step={0.5} onMove={(mm) => attempt({}, { tab: { ...tab, width_mm: mm } })} onKeep={(mm) => keep("Tab width", {}, { tab: { ...tab, width_mm: mm } })} />
            <LengthField label="Length" mm={tab.length_mm} min={2} max={60} reach={30} step={0.5} onMove={(mm) => attempt({}, { tab: { ...tab, length_mm: mm } })} onKeep={(mm) => keep("Tab length", {}, { tab: { ...tab, length_mm: mm } })} />
            <Toggle label="On the straightest edge" on={tab.near == null} onChange={(calm) => keep("Place of the tab", {}, { tab: { ...tab, near: calm ? null : [0.5, 1] } })} />
            {place("tab")}
          </>
        )}
      </Fold>
      <Fold title="Hole to hang by" told={hang ? length(hang.diameter_mm, 1) : "none"}>
        <Toggle label="A hole, cut through" on={Boolean(hang)} onChange={(on) => keep(on ? "Hanging hole" : "No hanging hole", {}, { hang: on ? HANG : null })} />
        {hang && (
          <>
            <LengthField label="Diameter" mm={hang.diameter_mm} min={1} max={30} reach={12} step={0.5} onMove={(mm) => attempt({}, { hang: { ...hang, diameter_mm: mm } })} onKeep={(mm) => keep("Hole diameter", {}, { hang: { ...hang, diameter_mm: mm } })} />
            <LengthField label="From the edge" mm={hang.from_edge_mm} min={0} max={60} reach={20} step={0.5} onMove={(mm) => attempt({}, { hang: { ...hang, from_edge_mm: mm } })} onKeep={(mm) => keep("Hole from the edge", {}, { hang: { ...hang, from_edge_mm: mm } })} />
            <Toggle label="At the top" on={hang.near == null} onChange={(top) => keep("Place of the hole", {}, { hang: { ...hang, near: top ? null : [0, 0] } })} />
            {place("hang")}
          </>
        )}
      </Fold>
    </>
  );
}
