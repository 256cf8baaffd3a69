import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";

import type { SizeByUse } from "../../api/client";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { useUnits } from "../../ui/units";

const field = "rounded border border-rule bg-paper px-1.5 py-1";

/** The shop's list of sizes, a row each. */
export function SizesDialog({ sizes, onKeep, onClose }: { sizes: SizeByUse[]; onKeep: (sizes: SizeByUse[]) => void; onClose: () => void }) {
  const { unit, fromMm, toMm } = useUnits();
  const [rows, setRows] = useState(sizes);
  const set = (index: number, changes: Partial<SizeByUse>) => setRows((before) => before.map((row, n) => (n === index ? { ...row, ...changes } : row)));
  const number = (mm: number) => Math.round(fromMm(mm) * 1000) / 1000;
  return (
    <Dialog form title="Sizes by use" description={`What your shop makes things at, in ${unit}. A box is filled exactly.`} open onClose={onClose}>
      <ul className="max-h-[50vh] overflow-y-auto px-4 py-2">
        {rows.map((row, index) => (
          <li key={index} className="flex items-center gap-1.5 py-1">
            <input aria-label="Use" className={`${field} min-w-0 grow`} maxLength={60} value={row.use} onChange={(event) => set(index, { use: event.target.value })} />
            <select
              aria-label={`Side of ${row.use}`}
              className={field}
              value={row.side}
              onChange={(event) => {
                const side = event.target.value as SizeByUse["side"];
                set(index, { side, height_mm: side === "box" ? (row.height_mm ?? row.mm) : null });
              }}
            >
              <option value="longest">longest</option>
              <option value="width">width</option>
              <option value="height">height</option>
              <option value="box">box</option>
            </select>
            <input aria-label={`Length of ${row.use}`} type="number" step="any" className={`${field} figure w-[72px] text-right`} value={number(row.mm)} onChange={(event) => set(index, { mm: toMm(Number(event.target.value)) })} />
            {row.side === "box" && (
              <input aria-label={`Height of ${row.use}`} type="number" step="any" className={`${field} figure w-[72px] text-right`} value={number(row.height_mm ?? row.mm)} onChange={(event) => set(index, { height_mm: toMm(Number(event.target.value)) })} />
            )}
            <button type="button" aria-label={`Remove ${row.use}`} className="rounded p-1.5 text-quiet hover:bg-stop-pale hover:text-stop" onClick={() => setRows((before) => before.filter((_, n) => n !== index))}>
              <Trash2 size={15} />
            </button>
          </li>
        ))}
      </ul>
      <div className="flex items-center gap-2 border-t border-rule px-4 py-3">
        <Button onClick={() => setRows((before) => [...before, { use: "New use", side: "longest", mm: 60, height_mm: null }])}>
          <Plus size={14} className="mr-1 inline" aria-hidden />
          Add
        </Button>
        <span className="grow" />
        <Button onClick={onClose}>Cancel</Button>
        <Button kind="act" disabled={rows.length === 0} onClick={() => onKeep(rows)}>Save this list</Button>
      </div>
    </Dialog>
  );
}
