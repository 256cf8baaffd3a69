import { useState } from "react";

import { type Design, previewUrl } from "../api/client";
import { useJob } from "../job/job";
import { count } from "../job/stubs";
import { Button } from "../ui/Button";
import { CountField } from "../ui/CountField";
import { Dialog } from "../ui/Dialog";
import { useTyped } from "../ui/useTyped";
import { useUnits } from "../ui/units";

const MOST_COPIES = 2000;

/** Every piece of the job in a table of its own: found by name, and many of them set at once. */
export function PiecesTable({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { job, change } = useJob();
  const { size } = useUnits();
  const [wanted, setWanted] = useState("");
  const [ticked, setTicked] = useState<Set<string>>(new Set());
  const [copies, setCopies] = useState(1);
  const designs = job.recipe.designs ?? [];
  const found = designs.filter((each) => each.name.toLowerCase().includes(wanted.trim().toLowerCase()));
  const chosen = found.filter((each) => ticked.has(each.id));
  const all = found.length > 0 && chosen.length === found.length;
  const counted = !job.recipe.sheet?.fill || job.recipe.sheet.card != null;
  const set = (ids: string[], changes: Partial<Design>, label: string) =>
    void change(label, (recipe) => ({
      ...recipe,
      ...("copies" in changes && recipe.sheet && !recipe.sheet.card ? { sheet: { ...recipe.sheet, fill: false } } : {}),
      designs: (recipe.designs ?? []).map((each) => (ids.includes(each.id) ? { ...each, ...changes } : each)),
    }));
  const tick = (ids: string[], on: boolean) =>
    setTicked((before) => {
      const next = new Set(before);
      for (const id of ids) if (on) next.add(id); else next.delete(id);
      return next;
    });
  return (
    <Dialog open={open} onClose={onClose} wide title="Pieces" description={`${count(designs.length, "piece")}. ${counted ? "Each piece is printed this many times." : "Sheets are filled with all pieces. Entering a number switches to counted copies."}`}>
      <div className="flex flex-wrap items-center gap-3 px-4 pt-2">
        <input aria-label="Find a piece" placeholder="Find by name" value={wanted} onChange={(event) => setWanted(event.target.value)} className="w-52 rounded-md border border-rule bg-paper px-2 py-1" />
        <span className="text-[12.5px] text-quiet" role="status">{wanted ? `${found.length} of ${designs.length}` : ""}</span>
        <span className="ml-auto flex items-center">
          <CountField label={chosen.length ? `Copies of ${chosen.length} chosen` : "Copies of the selected"} value={copies} min={1} max={MOST_COPIES} disabled={chosen.length === 0} onKeep={setCopies} />
          <Button disabled={chosen.length === 0} onClick={() => set(chosen.map((each) => each.id), { copies }, `${copies} of ${count(chosen.length, "piece")}`)}>Set</Button>
        </span>
      </div>
      <div className="m-4 mt-2 max-h-[52vh] overflow-y-auto rounded-md border border-rule bg-paper">
        <table className="w-full text-[13px]" aria-label="Pieces">
          <thead className="sticky top-0 bg-paper text-left text-quiet shadow-[0_1px_0_var(--color-rule)]">
            <tr>
              <th className="w-8 px-2 py-1.5"><input type="checkbox" aria-label="All that are shown" checked={all} onChange={() => tick(found.map((each) => each.id), !all)} className="accent-act" /></th>
              <th className="w-12" />
              <th className="font-normal">Name</th>
              <th className="pr-4 text-right font-normal">Size</th>
              <th className="pr-4 text-right font-normal">On sheets</th>
              <th className="pr-3.5 text-right font-normal">Copies</th>
            </tr>
          </thead>
          <tbody>
            {found.map((design) => {
              const facts = job.designs.find((each) => each.id === design.id);
              return (
                <tr key={design.id} className="border-t border-rule">
                  <td className="px-2"><input type="checkbox" aria-label={`Choose ${design.name}`} checked={ticked.has(design.id)} onChange={() => tick([design.id], !ticked.has(design.id))} className="accent-act" /></td>
                  <td className="py-1">
                    <span className="grid size-10 place-items-center">
                      <img src={previewUrl(facts?.artwork.picture ?? design.artwork)} alt="" className="max-h-10 max-w-10 object-contain" loading="lazy" />
                    </span>
                  </td>
                  <td className="pl-1"><Name of={design} onKeep={(name) => set([design.id], { name }, `Name: ${name}`.slice(0, 160))} /></td>
                  <td className="figure pr-4 text-right text-[12px] whitespace-nowrap">{facts && size(facts.width_mm, facts.height_mm)}</td>
                  <td className="figure pr-4 text-right">{facts?.placed ?? 0}</td>
                  <td><CountField label={`Copies of ${design.name}`} quiet value={design.copies ?? 1} min={1} max={MOST_COPIES} onKeep={(next) => set([design.id], { copies: next }, `${next} of ${design.name}`.slice(0, 160))} /></td>
                </tr>
              );
            })}
            {found.length === 0 && <tr><td colSpan={6} className="px-3 py-4 text-quiet">No piece matches.</td></tr>}
          </tbody>
        </table>
      </div>
      <div className="flex justify-end px-4 pb-4"><Button kind="act" onClick={onClose}>Done</Button></div>
    </Dialog>
  );
}

/** A name in full, as wide as the table lets it be. */
function Name({ of, onKeep }: { of: Design; onKeep: (name: string) => void }) {
  const { input, restore } = useTyped(of.name, (text) => (text.trim() && text.trim() !== of.name ? onKeep(text.trim()) : restore()));
  return <input {...input} aria-label={`Name of ${of.name}`} title={of.name} maxLength={120} className="w-full min-w-40 rounded border border-transparent bg-transparent px-1.5 py-1 font-semibold hover:border-rule focus:border-act" />;
}
