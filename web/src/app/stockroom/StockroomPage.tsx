import { useInfiniteQuery, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSearchParams } from "react-router";

import { call, type Schemas, urlOf } from "../../api/client";
import { Button } from "../../ui/Button";
import { CountField } from "../../ui/CountField";
import { useNotice } from "../../ui/Notice";
import { clockOf, dayOf } from "../../ui/when";
import { ScrapPicture } from "../../stations/scraps";
import { ShopFrame } from "../ShopFrame";
import { Bar } from "../../ui/Bar";
import { MoveForm } from "./MoveForm";
import { lastsWords } from "./words";

type Item = Schemas["ItemView"];
const KINDS: { kind: Item["kind"]; title: string }[] = [
  { kind: "stock", title: "Stocks" },
  { kind: "ink", title: "Ink" },
  { kind: "film", title: "Film" },
  { kind: "blade", title: "Blades" },
  { kind: "mat", title: "Mats" },
];
const PAGE = 60;

/** What the shop has, when to order, and every move of it. */
export function StockroomPage() {
  const client = useQueryClient();
  const tell = useNotice();
  const [params, setParams] = useSearchParams();
  const { data: items } = useQuery({ queryKey: ["stockroom"], queryFn: () => call("get_stockroom", {}) });
  const chosen = items?.find((item) => item.item === params.get("item")) ?? items?.[0];
  const choose = (item: string) => setParams({ item }, { replace: true });
  const kept = (now: Item[]) => {
    client.setQueryData(["stockroom"], now);
    void client.invalidateQueries({ queryKey: ["moves"] });
    void client.invalidateQueries({ queryKey: ["shop"] });
  };
  const set = (item: Item, changes: Partial<Item["settings"]>) =>
    void call("put_item", { path: { item: item.item }, body: { ...item.settings, ...changes } as Schemas["ItemSettings"] }).then(kept).catch(tell);
  return (
    <ShopFrame>
      <main className="grid min-h-0 grow gap-3 p-3.5 min-[1000px]:grid-cols-[minmax(0,1fr)_400px]">
        <section aria-label="Stock" className="min-h-0 overflow-y-auto rounded-lg border border-rule bg-paper">
          <div className="perforated flex items-baseline justify-between gap-3 px-4 py-2.5">
            <h1 className="text-[18px]">Stockroom</h1>
            <span className="text-[12.5px] text-quiet">counted down by prints and cuts</span>
          </div>
          {KINDS.map(({ kind, title }) => {
            const mine = (items ?? []).filter((item) => item.kind === kind);
            return mine.length > 0 && (
              <div key={kind}>
                <h2 className="px-4 pt-3 pb-1 text-[14px]">{title}</h2>
                <ul>
                  {mine.map((item) => <ItemRow key={item.item} item={item} on={item.item === chosen?.item} onChoose={() => choose(item.item)} />)}
                </ul>
              </div>
            );
          })}
          <Scraps />
        </section>
        {chosen && (
          <section aria-label={chosen.name} className="flex min-h-0 flex-col overflow-y-auto rounded-lg border border-rule bg-card">
            <h2 className="px-4 pt-3 text-[16px]">{chosen.name}</h2>
            <Forecast item={chosen} />
            <MoveForm key={chosen.item} item={chosen} onKept={kept} />
            <div className="border-t border-rule py-2">
              <CountField label="Delivery time, days" value={chosen.settings.delivery_days ?? 5} min={0} max={120} onKeep={(delivery_days) => set(chosen, { delivery_days })} />
              <CountField label={`Bought at once, ${chosen.unit}`} value={chosen.settings.pack ?? 50} min={1} max={100_000} onKeep={(pack) => set(chosen, { pack })} />
              <CountField label="Accepted risk of running out, %" value={Math.round((chosen.settings.chance ?? 0.05) * 100)} min={1} max={50} onKeep={(percent) => set(chosen, { chance: percent / 100 })} />
            </div>
            <Moves item={chosen} />
          </section>
        )}
      </main>
    </ShopFrame>
  );
}

/** Sheets of which a part is left. */
function Scraps() {
  const client = useQueryClient();
  const tell = useNotice();
  const { data } = useQuery({ queryKey: ["scraps"], queryFn: () => call("get_scraps", {}) });
  if (!data?.length) return null;
  const away = (print_id: number) => void call("delete_scrap", { path: { print_id } }).then((now) => client.setQueryData(["scraps"], now)).catch(tell);
  return (
    <div>
      <h2 className="px-4 pt-3 pb-1 text-[14px]">Leftover sheets</h2>
      <ul aria-label="Leftover sheets">
        {data.map((scrap) => (
          <li key={scrap.of_print} className="flex items-center gap-3 border-b border-[#e6ecea] px-4 py-1.5">
            <ScrapPicture scrap={scrap} />
            <span className="min-w-0 grow"><b className="font-semibold">{scrap.stock}</b>, {scrap.free_cm2.toFixed(0)} cm² free<br />
              <span className="text-[12.5px] text-quiet">of “{scrap.title}”, {dayOf(scrap.at)}{scrap.taken_by != null ? ` · job ${scrap.taken_by} uses it` : ""}</span>
            </span>
            <Button kind="quiet" aria-label={`Throw away what is left of ${scrap.title}`} onClick={() => away(scrap.of_print)}>Throw away</Button>
          </li>
        ))}
      </ul>
    </div>
  );
}

/** A quantity with as many decimals as it needs. */
export const amount = (value: number) => (Math.abs(value) >= 100 || Number.isInteger(value) ? value.toFixed(0) : value.toFixed(1));

function ItemRow({ item, on, onChoose }: { item: Item; on: boolean; onChoose: () => void }) {
  const { forecast } = item;
  const order = forecast !== null && forecast.order > 0;
  const low = item.level !== null && item.level < 0;
  return (
    <li>
      <button type="button" aria-pressed={on} onClick={onChoose} className="grid w-full grid-cols-[minmax(0,1.5fr)_110px_minmax(0,1fr)_minmax(0,1.2fr)] items-center gap-3 border-b border-[#e6ecea] px-4 py-1.5 text-left hover:bg-card aria-pressed:bg-act-pale">
        <b className="truncate font-semibold">{item.name}</b>
        <span className="figure text-right text-[13px]">{item.level === null ? "–" : `${amount(item.level)} ${item.unit}`}</span>
        <Bar share={item.level !== null && forecast ? item.level / Math.max(forecast.reorder_at * 2, 1e-6) : 0} label={item.level === null ? "not counted yet" : `${amount(item.level)} ${item.unit}`} tone={order || low ? "bg-look" : "bg-act"} />
        <span className={`truncate text-[12.5px] ${order || low ? "font-semibold text-look" : "text-quiet"}`}>
          {low ? "more used than recorded: count it" : order ? `order ${amount(forecast.order)} ${item.unit}` : forecast ? lastsWords(forecast.lasts_days) : item.level === null ? (item.used > 0 ? `${amount(item.used)} ${item.unit} used, not counted yet` : "not counted yet") : "no use recorded yet"}
        </span>
      </button>
    </li>
  );
}

function Forecast({ item }: { item: Item }) {
  const { forecast } = item;
  return (
    <div className="px-4 py-1.5">
      <p><b className="figure text-[21px] font-medium">{item.level === null ? "–" : amount(item.level)}</b> <span className="text-quiet">{item.unit} there · {amount(item.used)} used{item.waste > 0 ? ` · ${amount(item.waste)} wasted` : ""}</span></p>
      {forecast ? (
        <p className={forecast.order > 0 ? "text-look" : "text-quiet"}>
          {amount(forecast.a_day)} a day; {lastsWords(forecast.lasts_days)}. Order when {Math.ceil(forecast.reorder_at)} are left
          {forecast.order > 0 ? `: ${amount(forecast.order)} ${item.unit} now. Ordered today it runs out first in ${Math.round(forecast.runs_out * 100)} of 100 cases.` : "."}
        </p>
      ) : (
        <p className="text-quiet">{item.level === null ? "Enter what you have, and it counts down from now on." : "After a week of use this says when to order."}</p>
      )}
      {Object.keys(item.cut_in).length > 0 && (
        <p className="text-[12.5px] text-quiet">Since it was fitted: {Object.entries(item.cut_in).map(([stock, metres]) => `${metres.toFixed(1)} m in ${stock}`).join(", ")}.</p>
      )}
    </div>
  );
}

const WORDS: Record<string, string> = { supplier: "delivered", used: "used", waste: "wasted", found: "corrected" };

function Moves({ item }: { item: Item }) {
  const { data, hasNextPage, fetchNextPage } = useInfiniteQuery({
    queryKey: ["moves", item.item],
    initialPageParam: undefined as number | undefined,
    queryFn: ({ pageParam }) => call("get_moves", { query: { item: item.item, before: pageParam, most: PAGE } }),
    getNextPageParam: (page) => (page.length === PAGE ? page.at(-1)?.id : undefined),
  });
  const moves = data?.pages.flat() ?? [];
  return (
    <div className="border-t border-rule px-4 py-2">
      <div className="flex items-baseline justify-between">
        <h3 className="text-[14px]">Movements</h3>
        <a href={urlOf("get_csv", { table: "stock_move" })} download className="text-[12.5px] text-act underline underline-offset-2">All as CSV</a>
      </div>
      {moves.length === 0 && <p className="text-quiet">None yet.</p>}
      <ul>
        {moves.map((move) => {
          const into = move.into === "shelf";
          const place = into ? move.out_of : move.into;
          return (
            <li key={move.id} className="grid grid-cols-[118px_minmax(0,1fr)_auto] items-baseline gap-2 border-b border-[#e1e8e5] py-1 text-[12.5px] last:border-b-0">
              <span className="text-quiet">{dayOf(move.at)} {clockOf(move.at)}</span>
              <span className="truncate" title={move.why}>{WORDS[place] ?? place}: {move.why}</span>
              <span className={`figure ${into ? "text-good" : ""}`}>{into ? "+" : "−"}{amount(move.quantity)}</span>
            </li>
          );
        })}
      </ul>
      {hasNextPage && <p className="pt-2"><Button onClick={() => void fetchNextPage()}>Earlier movements</Button></p>}
    </div>
  );
}
