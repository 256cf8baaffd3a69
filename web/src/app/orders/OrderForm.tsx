import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useId, useState } from "react";
import { Link } from "react-router";

import { call, previewUrl } from "../../api/client";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { useNotice } from "../../ui/Notice";
import { fieldOf, fromField } from "../../ui/when";
import type { Order } from "./order";

interface Line {
  item: number;
  name: string;
  picture: string;
  longest_mm: number;
  quantity: number;
}

const INPUT = "mt-0.5 block w-full rounded border border-rule bg-paper px-2 py-1 text-ink";

/** Enter or change an order: who, by when, and what of the shelf. */
export function OrderForm({ order, onClose }: { order: Order | null; onClose: (kept: Order | null) => void }) {
  const tell = useNotice();
  const id = useId();
  const [who, setWho] = useState(order?.who ?? "");
  const [address, setAddress] = useState(order?.address ?? "");
  const [note, setNote] = useState(order?.note ?? "");
  const [due, setDue] = useState(fieldOf(order?.due_at ?? null));
  const [price, setPrice] = useState(order?.price == null ? "" : String(order.price));
  const [lines, setLines] = useState<Line[]>(order?.lines ?? []);
  const [words, setWords] = useState("");
  const [fault, setFault] = useState("");
  const { data: shelf } = useQuery({
    queryKey: ["shelf", words],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => call("get_shelf", { signal, query: { named: words, most: 12 } }),
  });
  const put = (at: number, changes: Partial<Line>) => setLines(lines.map((line, n) => (n === at ? { ...line, ...changes } : line)));
  const keep = async () => {
    const asked = price.trim() === "" ? null : Number(price.replace(",", "."));
    if (!who.trim()) return setFault("Enter a customer.");
    if (lines.length === 0) return setFault("Choose designs from the shelf below.");
    if (asked !== null && !(asked >= 0)) return setFault("Enter the price as a number, or leave it empty.");
    const body = {
      who,
      address,
      note,
      due_at: fromField(due),
      price: asked === null ? null : asked.toFixed(2),
      lines: lines.map(({ item, longest_mm, quantity }) => ({ item, longest_mm, quantity })),
      version: order?.version ?? 0,
    };
    try {
      onClose(order ? await call("put_order", { path: { order_id: order.id }, body }) : await call("post_order", { body }));
    } catch (problem) {
      tell(problem);
    }
  };
  return (
    <Dialog open wide form title={order ? `Order ${order.id}` : "New order"} onClose={() => onClose(null)}>
      <form
        className="grid max-h-[76vh] grid-cols-2 gap-x-4 gap-y-2 overflow-y-auto p-4"
        onSubmit={(event) => {
          event.preventDefault();
          void keep();
        }}
      >
        <label className="text-quiet">Customer<input autoFocus value={who} maxLength={120} onChange={(event) => setWho(event.target.value)} className={INPUT} /></label>
        <span className="grid grid-cols-[1fr_110px] gap-3">
          <label className="text-quiet">Due<input type="datetime-local" value={due} onChange={(event) => setDue(event.target.value)} className={`${INPUT} figure text-[13px]`} /></label>
          <label className="text-quiet">Total price<input inputMode="decimal" value={price} onChange={(event) => setPrice(event.target.value)} className={`${INPUT} figure`} /></label>
        </span>
        <label className="text-quiet">Address<textarea value={address} rows={3} maxLength={400} onChange={(event) => setAddress(event.target.value)} className={INPUT} /></label>
        <label className="text-quiet">Note<textarea value={note} rows={3} maxLength={400} onChange={(event) => setNote(event.target.value)} className={INPUT} /></label>
        <div className="col-span-2">
          <h3 className="pt-1 text-[14px]">Designs</h3>
          <ul aria-label="Designs">
            {lines.map((line, at) => (
              <li key={at} className="flex items-center gap-3 border-b border-rule py-1">
                <img src={previewUrl(line.picture)} alt="" className="size-8 rounded border border-rule bg-paper object-contain" />
                <b className="min-w-0 grow truncate font-semibold">{line.name}</b>
                <label className="flex items-center gap-1 text-quiet">longest side, mm
                  <input aria-label={`Longest side of ${line.name}, mm`} type="number" min={5} max={400} step="0.1" value={line.longest_mm} onChange={(event) => put(at, { longest_mm: Number(event.target.value) })} className="figure w-20 rounded border border-rule bg-paper px-1.5 py-0.5 text-right text-ink" />
                </label>
                <label className="flex items-center gap-1 text-quiet">how many
                  <input aria-label={`How many of ${line.name}`} type="number" min={1} max={20000} value={line.quantity} onChange={(event) => put(at, { quantity: Math.round(Number(event.target.value)) })} className="figure w-20 rounded border border-rule bg-paper px-1.5 py-0.5 text-right text-ink" />
                </label>
                <button type="button" aria-label={`Remove ${line.name}`} onClick={() => setLines(lines.filter((_, n) => n !== at))} className="rounded p-1 text-quiet hover:bg-stop-pale hover:text-stop"><X size={15} /></button>
              </li>
            ))}
          </ul>
          <input id={`${id}s`} aria-label="Find on the shelf" placeholder="Find on the shelf" value={words} onChange={(event) => setWords(event.target.value)} className={`${INPUT} mt-2`} />
          <ul aria-label="On the shelf" className="flex flex-wrap gap-2 pt-2">
            {(shelf ?? []).map((item) => (
              <li key={item.id}>
                <button type="button" title={`Add ${item.name}`} onClick={() => setLines([...lines, { item: item.id, name: item.name, picture: item.picture, longest_mm: item.longest_mm, quantity: 10 }])} className="flex items-center gap-2 rounded-md border border-rule bg-paper py-1 pr-2.5 pl-1 hover:border-act">
                  <img src={previewUrl(item.picture)} alt="" className="size-8 object-contain" /> {item.name}
                </button>
              </li>
            ))}
          </ul>
          {shelf?.length === 0 && !words && (
            <p className="pt-1 text-quiet">The shelf is empty. Open a job, choose a finished piece at <i>Cut lines</i> and save it to the shelf. <Link to="/" className="text-act underline">Look at the jobs</Link></p>
          )}
          {shelf?.length === 0 && words && <p className="pt-1 text-quiet">Nothing on the shelf matches.</p>}
        </div>
        <div className="col-span-2 flex items-center justify-end gap-3 border-t border-rule pt-3">
          {fault && <p role="alert" className="grow text-stop">{fault}</p>}
          <Button onClick={() => onClose(null)}>Cancel</Button>
          <Button kind="act" type="submit">{order ? "Save the changes" : "Save the order"}</Button>
        </div>
      </form>
    </Dialog>
  );
}
