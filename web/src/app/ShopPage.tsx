import { useQueryClient } from "@tanstack/react-query";
import { Plus, Trash2 } from "lucide-react";
import { useRef, useState } from "react";
import { Link } from "react-router";

import { call, type Plotter, type Printer, type Shop, type Stock } from "../api/client";
import { Button } from "../ui/Button";
import { useNotice } from "../ui/Notice";
import { useUnits } from "../ui/units";
import { BookSection } from "./BookSection";
import { USUAL_CUT_TYPES, type UsualCutType } from "../job/cutType";
import { Select } from "../ui/Select";
import { ShopFrame } from "./ShopFrame";
import { ShopCurrency, ShopName } from "./ShopName";
import { BackupSection, HoursSection, RatesSection } from "./ShopSections";
import { type Field, MARK_FIELDS, PLOTTER_FIELDS, PRINTER_FIELDS, STOCK_FIELDS, EquipmentForm } from "./EquipmentForm";
import { machineName, SHOP_KEY, useShop } from "../job/useShop";
import { useVersioned } from "../job/useVersioned";

type Equipment = { id: string; name: string };
type Kind = "stock" | "printer" | "plotter";

/** Stocks, printers and plotters of the shop with all their numbers. */
export function ShopPage() {
  const shop = useShop();
  const client = useQueryClient();
  const tell = useNotice();
  const { size } = useUnits();
  const [open, setOpen] = useState<string | null>(null);
  // One after another, and shown at once: two quick changes must not undo each other.
  const last = useRef<Promise<unknown>>(Promise.resolve());
  const waiting = useRef(0);
  const versioned = useVersioned();
  const versions = useRef<Record<string, string>>({});
  if (shop && waiting.current === 0) versions.current = shop.versions;
  const put = (write: (version?: string) => Promise<Shop>, record = "", mine: unknown = null) => {
    waiting.current += 1;
    last.current = last.current.then(() => versioned(mine, versions.current[record], write)).then(
      (kept) => {
        waiting.current -= 1;
        if (kept) versions.current = kept.versions;
        if (!kept) void client.invalidateQueries({ queryKey: SHOP_KEY });
        else if (waiting.current === 0) client.setQueryData(SHOP_KEY, kept);
      },
      (problem: unknown) => {
        waiting.current -= 1;
        tell(problem);
        void client.invalidateQueries({ queryKey: SHOP_KEY });
      },
    );
  };
  const keep = (kind: Kind, thing: Equipment) => {
    const list = `${kind}s` as const;
    client.setQueryData<Shop>(SHOP_KEY, (now) => now && { ...now, [list]: (now[list] as Equipment[]).map((each) => (each.id === thing.id ? thing : each)) });
    const record = `${kind}:${thing.id}`;
    if (kind === "stock") put((ifMatch) => call("put_stock", { body: thing as Stock, ifMatch }), record, thing);
    if (kind === "printer") put((ifMatch) => call("put_printer", { body: thing as Printer, ifMatch }), record, thing);
    if (kind === "plotter") put((ifMatch) => call("put_plotter", { body: thing as Plotter, ifMatch }), record, thing);
  };
  const another = (kind: Kind, from: Equipment) => {
    const id = `${kind}-${Date.now().toString(36)}`;
    keep(kind, { ...from, id, name: `${from.name.slice(0, 50)}, another` });
    setOpen(`${kind} ${id}`);
  };
  if (!shop) return <ShopFrame>{null}</ShopFrame>;
  const parts: { kind: Kind; title: string; hint: string; things: Equipment[]; fields: Field[]; told: (thing: Equipment) => string }[] = [
    {
      kind: "stock", title: "Stocks", hint: "Papers, vinyls and films. A job keeps the numbers it was made with.", things: shop.stocks, fields: STOCK_FIELDS,
      told: (thing) => {
        const stock = thing as Stock;
        return `${size(stock.width_mm, stock.height_mm, 0)}${stock.kind === "roll" ? " panels" : ""} · ${stock.face} · ${stock.left} ${stock.kind === "roll" ? "m" : "sheets"} left`;
      },
    },
    { kind: "printer", title: "Printers", hint: "Unprintable margins and ink prices.", things: shop.printers, fields: PRINTER_FIELDS, told: (thing) => `margins ${(thing as Printer).margin_side_mm} mm` },
    {
      kind: "plotter", title: "Plotters", hint: "Sheet sizes, force, sensor, knife and marks.", things: shop.plotters, fields: [...PLOTTER_FIELDS, ...MARK_FIELDS],
      told: (thing) => `${(thing as Plotter).cutting_width_mm} mm wide · knife ${(thing as Plotter).knife_offset_mm} mm`,
    },
  ];
  return (
    <ShopFrame>
      <main className="mx-auto w-full max-w-3xl grow overflow-auto p-8">
        <h1 className="pb-3 text-[22px]">Stocks and machines</h1>
        {shop.is_new && <p role="note" className="pb-3 text-look">These are simulated examples. <Link to="/" className="text-act underline underline-offset-2">Enter what you have</Link> to replace them.</p>}
        <ShopName name={shop.name} onKeep={(name) => put((ifMatch) => call("put_name", { body: { name }, ifMatch }), "name", { name })} />
        <ShopCurrency currency={shop.currency} onKeep={(currency) => put((ifMatch) => call("put_currency", { body: { currency }, ifMatch }), "currency", { currency })} />
        <div className="-mx-3.5 w-[406px] pb-4">
          <Select
            label="Usual cut type"
            value={shop.habit ?? ""}
            options={[...(shop.habit ? [] : [{ value: "", label: "asked at the next job" }]), ...USUAL_CUT_TYPES.map(({ value, label }) => ({ value, label: label.toLowerCase() }))]}
            onChange={(next) => next && put((ifMatch) => call("put_habit", { body: { comes_off: next as UsualCutType }, ifMatch }), "comes_off", { comes_off: next })}
          />
        </div>
        {parts.map(({ kind, title, hint, things, fields, told }) => (
          <section key={kind} aria-label={title} className="pb-5">
            <div className="flex items-baseline justify-between gap-3 pb-1.5">
              <h2 className="text-[16px]">{title}</h2>
              <span className="grow text-[12.5px] text-quiet">{hint}</span>
              <Button onClick={() => another(kind, things[0]!)} aria-label={`Another ${kind}`}>
                <span className="inline-flex items-center gap-1"><Plus size={14} aria-hidden />Another</span>
              </Button>
            </div>
            <ul className="grid gap-1.5">
              {things.map((thing) => {
                const key = `${kind} ${thing.id}`;
                return (
                  <li key={key} className="rounded-lg border border-rule bg-paper">
                    <div className="flex items-center gap-3 px-3.5 py-2">
                      <button type="button" aria-expanded={open === key} onClick={() => setOpen(open === key ? null : key)} className="flex min-w-0 grow items-baseline gap-3 text-left hover:text-act">
                        <b className="font-head font-semibold">{kind === "stock" ? thing.name : machineName(thing as Printer)}</b>
                        <span className="figure truncate text-[12px] text-quiet">{told(thing)}</span>
                      </button>
                      <button type="button" aria-label={`Remove ${thing.name}`} className="rounded p-1 text-quiet hover:bg-stop-pale hover:text-stop" onClick={() => put(() => call("delete_equipment", { path: { kind, equipment_id: thing.id } }))}>
                        <Trash2 size={14} />
                      </button>
                    </div>
                    {open === key && <EquipmentForm of={thing} fields={fields} onKeep={(changed) => keep(kind, changed as Equipment)} />}
                    {open === key && kind !== "stock" && <TryAddress kind={kind} thing={thing as Printer} />}
                  </li>
                );
              })}
            </ul>
          </section>
        ))}
        <BookSection shop={shop} />
        <HoursSection />
        <RatesSection />
        <BackupSection />
      </main>
    </ShopFrame>
  );
}

/** Whether a device answers at its address; nothing is printed or cut by it. */
function TryAddress({ kind, thing }: { kind: "printer" | "plotter"; thing: Printer & { language?: string } }) {
  const tell = useNotice();
  const [told, setTold] = useState<{ at: string; problem: string | null } | null>(null);
  if (!thing.address) return null;
  const { address, language } = thing;
  const tryIt = () =>
    void call("post_try_address", { body: { kind, address, language: language ?? "hpgl" } })
      .then(({ problem }) => setTold({ at: address, problem }))
      .catch(tell);
  return (
    <p className="flex items-center gap-3 px-3.5 pb-2.5">
      <Button onClick={tryIt}>Test the connection</Button>
      {told?.at === address && <span role="status" className={told.problem ? "text-stop" : "text-good"}>{told.problem ?? "The device answers."}</span>}
    </p>
  );
}
