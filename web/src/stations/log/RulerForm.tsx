import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call, type Run } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { useNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";

const SIDES = ["left", "right", "top", "bottom"] as const;
type Typed = Record<string, string>;

/** The white at the sides of the stickers that tell most, read by ruler. */
export function RulerForm({ run, onDone, onBack }: { run: Run; onDone: () => void; onBack: () => void }) {
  const { job } = useJob();
  const { unit, toMm } = useUnits();
  const tell = useNotice();
  const [typed, setTyped] = useState<Typed>({});
  const [fault, setFault] = useState("");
  const { data: chosen } = useQuery({ queryKey: ["ruler", run.id], staleTime: Infinity, queryFn: () => call("get_to_measure", { path: { run_id: run.id } }) });
  const nameOf = (id: string) => job.recipe.designs?.find((each) => each.id === id)?.name ?? id;
  const send = async () => {
    const readings = (chosen ?? []).map((sticker) => {
      const [left, right, top, bottom] = SIDES.map((side) => toMm(Number((typed[`${sticker} ${side}`] ?? "").replace(",", ".") || NaN)));
      return { sticker, left_mm: left!, right_mm: right!, top_mm: top!, bottom_mm: bottom! };
    }).filter((each) => [each.left_mm, each.right_mm, each.top_mm, each.bottom_mm].every(Number.isFinite));
    if (readings.length < Math.min(3, chosen?.length ?? 0)) return setFault("Measure all four sides of at least three stickers.");
    setFault("");
    try {
      await call("post_ruler", { path: { run_id: run.id }, body: { readings } });
      onDone();
    } catch (problem) {
      tell(problem);
    }
  };
  return (
    <form className="mx-2.5 mb-2 rounded-md border border-rule bg-paper px-2.5 py-2" onSubmit={(event) => { event.preventDefault(); void send(); }}>
      <p className="pb-1">The white from the art to the cut at each side, in {unit}; the nearest quarter of a millimetre will do.</p>
      <table className="w-full">
        <thead className="text-[12px] text-quiet"><tr><th className="text-left font-normal">sticker</th>{SIDES.map((side) => <th key={side} className="font-normal">{side}</th>)}</tr></thead>
        <tbody>
          {(chosen ?? []).map((sticker) => (
            <tr key={sticker}>
              <td className="max-w-24 truncate pr-1" title={nameOf(run.stickers?.[sticker]?.design ?? "")}>{sticker + 1}, {nameOf(run.stickers?.[sticker]?.design ?? "")}</td>
              {SIDES.map((side) => (
                <td key={side}>
                  <input aria-label={`Sticker ${sticker + 1}, ${side}`} inputMode="decimal" value={typed[`${sticker} ${side}`] ?? ""} onChange={(event) => setTyped({ ...typed, [`${sticker} ${side}`]: event.target.value })} className="figure w-full rounded border border-rule px-1 py-0.5 text-right text-[12.5px]" />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {fault && <p role="alert" className="text-[12.5px] text-stop">{fault}</p>}
      <p className="flex gap-1.5 pt-1.5"><Button kind="act" type="submit">Calculate the slip</Button><Button onClick={onBack}>Cancel</Button></p>
    </form>
  );
}
