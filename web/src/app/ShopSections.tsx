import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useId, useState } from "react";

import { call, type Schemas, sendFile, urlOf } from "../api/client";
import { count } from "../job/stubs";
import { SHOP_KEY, useShop } from "../job/useShop";
import { useVersioned } from "../job/useVersioned";
import { Button } from "../ui/Button";
import { CountField } from "../ui/CountField";
import { FileButton } from "../ui/FileButton";
import { useNotice } from "../ui/Notice";
import { useTyped } from "../ui/useTyped";

const DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];
type Hours = Required<Schemas["ShopHours"]>;
type Rates = Required<Schemas["CostRates"]>;
type WorkTime = Schemas["WorkTimeView"];

function Part({ title, hint, children }: { title: string; hint: string; children: ReactNode }) {
  return (
    <section aria-label={title} className="pb-5">
      <div className="flex items-baseline gap-3 pb-1.5">
        <h2 className="text-[16px]">{title}</h2>
        <span className="text-[12.5px] text-quiet">{hint}</span>
      </div>
      <div className="rounded-lg border border-rule bg-paper px-3.5 py-2">{children}</div>
    </section>
  );
}

const clock = (minute: number) => `${String(Math.floor(minute / 60)).padStart(2, "0")}:${String(minute % 60).padStart(2, "0")}`;
const minutes = (text: string) => Number(text.slice(0, 2)) * 60 + Number(text.slice(3, 5));

/** When the shop is open: the plan of the day lies within. */
export function HoursSection() {
  const tell = useNotice();
  const client = useQueryClient();
  const shop = useShop();
  const versioned = useVersioned();
  const { data: hours } = useQuery({ queryKey: ["hours"], queryFn: () => call("get_hours", {}) });
  if (!hours) return null;
  const now = hours as Hours;
  const keep = (changes: Partial<Hours>) => {
    const mine = { ...now, ...changes };
    void versioned(mine, shop?.versions.hours, (ifMatch) => call("put_hours", { body: mine, ifMatch }))
      .then((kept) => {
        if (kept) client.setQueryData(["hours"], kept);
        else void client.invalidateQueries({ queryKey: ["hours"] });
        void client.invalidateQueries({ queryKey: SHOP_KEY });
        return client.invalidateQueries({ queryKey: ["day"] });
      })
      .catch(tell);
  };
  const put = (day: number, span: [number, number] | null) => keep({ days: now.days.map((each, n) => (n === day ? span : each)) });
  return (
    <Part title="Opening hours" hint="Work is planned within these hours. Ink also dries overnight.">
      <ul className="grid grid-cols-2 gap-x-8">
        {DAYS.map((name, day) => {
          const span = now.days[day] as [number, number] | null;
          return (
            <li key={name} className="flex h-8 items-center gap-2">
              <label className="flex w-32 items-center gap-2"><input type="checkbox" className="accent-act" checked={span !== null} onChange={(event) => put(day, event.target.checked ? [540, 1020] : null)} />{name}</label>
              {span && ["from", "to"].map((which, n) => (
                <input
                  key={`${which} ${span[n]}`}
                  type="time"
                  aria-label={`${name}, ${which}`}
                  defaultValue={clock(Math.min(span[n]!, 1439))}
                  onBlur={(event) => event.target.value && minutes(event.target.value) !== span[n] && put(day, n === 0 ? [minutes(event.target.value), span[1]] : [span[0], minutes(event.target.value)])}
                  className="figure rounded border border-rule px-1.5 py-0.5 text-[13px]"
                />
              ))}
              {!span && <span className="text-quiet">closed</span>}
            </li>
          );
        })}
      </ul>
      <div className="-mx-3.5 grid grid-cols-2 gap-x-4 pt-1">
        <CountField label="People working at once" value={now.hands} min={1} max={20} onKeep={(hands) => keep({ hands })} />
        <CountField label="Changing stock, min" value={now.setup_min} min={0} max={120} onKeep={(setup_min) => keep({ setup_min })} />
      </div>
    </Part>
  );
}

const RATES: [keyof Rates, string][] = [
  ["hand_hour", "Hand work per hour"],
  ["machine_hour", "Machine per hour"],
  ["blade", "Blade price"],
  ["blade_m", "Blade life, m"],
  ["mat", "Mat price"],
  ["mat_loads", "Mat life, loads"],
  ["film_m2", "Film per m²"],
  ["packing", "Packing per order"],
  ["sheet_min", "Hand work per sheet, min"],
  ["sticker_s", "Hand work per sticker, s"],
  ["order_min", "Hand work per order, min"],
  ["print_min", "Print time per sheet, min"],
];

/** Hourly rates and wear, for the price of an order. */
export function RatesSection() {
  const tell = useNotice();
  const client = useQueryClient();
  const shop = useShop();
  const versioned = useVersioned();
  const { data } = useQuery({ queryKey: ["rates"], queryFn: () => call("get_rates", {}) });
  const { data: log } = useQuery({ queryKey: ["rates", "log"], queryFn: () => call("get_work_times", {}) });
  if (!data) return null;
  const rates = data as Rates;
  const keep = (changes: Partial<Rates>) => {
    const mine = { ...rates, ...changes };
    void versioned(mine, shop?.versions.rates, (ifMatch) => call("put_rates", { body: mine, ifMatch }))
      .then((kept) => {
        if (kept) client.setQueryData(["rates"], kept);
        else void client.invalidateQueries({ queryKey: ["rates"], exact: true });
        void client.invalidateQueries({ queryKey: SHOP_KEY });
        return client.invalidateQueries({ queryKey: ["cost"] });
      })
      .catch((problem) => {
        tell(problem);
        return client.invalidateQueries({ queryKey: ["rates"], exact: true });
      });
  };
  return (
    <Part title="Hourly rates and wear" hint="Prices of stock and ink are in their own records.">
      <div className="grid grid-cols-2 gap-x-8">
        {RATES.map(([name, label]) => <Amount key={name} label={label} value={rates[name]} log={log?.find((each) => each.rate === name)} onKeep={(value) => keep({ [name]: value })} />)}
        <Amount label="Markup, %" value={Math.round(rates.margin * 1000) / 10} onKeep={(percent) => keep({ margin: percent / 100 })} />
      </div>
    </Part>
  );
}

/** A figure that is typed; where the log measures it and says otherwise, that is a click away. */
function Amount({ label, value, log, onKeep }: { label: string; value: number; log?: WorkTime; onKeep: (value: number) => void }) {
  const id = useId();
  const measured = log && Math.round(log.value * 10) / 10;
  const { input, restore } = useTyped(String(value), (text) => {
    const typed = Number(text.replace(",", "."));
    if (Number.isFinite(typed) && typed >= 0 && typed !== value) onKeep(typed);
    else restore();
  });
  return (
    <div className="flex h-8 items-center justify-between gap-3">
      <label htmlFor={id} className="grow whitespace-nowrap text-quiet">{label}</label>
      {measured !== undefined && measured !== value && (
        <button type="button" className="text-[12.5px] whitespace-nowrap text-act underline underline-offset-2" title={`Measured ${log!.times} times. Use it.`} aria-label={`Use ${measured} for ${label}, from the log`} onClick={() => onKeep(measured)}>
          log: {measured}
        </button>
      )}
      <input {...input} id={id} inputMode="decimal" className="figure w-20 rounded border border-rule px-2 py-0.5 text-right text-[13px] focus:border-act" />
    </div>
  );
}

const TABLES: [string, string][] = [
  ["job", "Jobs"], ["print", "Prints"], ["run", "Cuts"], ["customer_order", "Orders"], ["order_item", "Order items"], ["shelf_item", "Shelf"], ["stock_move", "Stock movements"], ["cut_book", "Settings book"], ["equipment", "Stocks and machines"],
];

/** Everything comes and goes. */
export function BackupSection() {
  const tell = useNotice();
  const client = useQueryClient();
  const [told, setTold] = useState("");
  const { data: left, refetch } = useQuery({ queryKey: ["left-over"], queryFn: () => call("get_left_over", {}), enabled: false });
  const restore = (file: File) => {
    setTold("Reading and comparing it …");
    void sendFile("post_restore", {}, file)
      .then((made) => {
        setTold(`${count(made.rows, "row")} and ${count(made.files, "file")} are back.`);
        return client.invalidateQueries();
      })
      .catch((problem) => {
        setTold("");
        tell(problem);
      });
  };
  const link = "inline-flex rounded-md border border-rule bg-paper px-3 py-1.5 hover:border-act";
  return (
    <Part title="Backup" hint="The whole shop in one file, every part checked by its hash.">
      <p className="flex flex-wrap items-center gap-2 py-1">
        <a href={urlOf("get_backup")} download className={link}>Save a backup</a>
        <FileButton label="Backup to restore" accept=".zip,application/zip" onFile={restore}>Restore a backup …</FileButton>
        <span role="status" className="text-quiet">{told || "A backup can only be restored into an empty shop."}</span>
      </p>
      <p className="flex flex-wrap items-baseline gap-x-3 gap-y-1 py-1">
        <span className="text-quiet">As CSV:</span>
        {TABLES.map(([table, name]) => <a key={table} href={urlOf("get_csv", { table })} download className="text-act underline underline-offset-2">{name}</a>)}
      </p>
      <p className="flex flex-wrap items-center gap-2 py-1">
        <Button onClick={() => void refetch()}>Find unused files</Button>
        {left && (left.files === 0 ? <span className="text-quiet">None: every file is in use, or less than a day old.</span> : (
          <>
            <span>{count(left.files, "file")}, {(left.bytes / 1e6).toFixed(1)} MB: {Object.entries(left.why).map(([why, n]) => `${n} ${why}`).join(", ")}.</span>
            <Button kind="stop" onClick={() => void call("delete_left_over", {}).then(() => refetch()).catch(tell)}>Remove them</Button>
          </>
        ))}
      </p>
    </Part>
  );
}
