import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { call, type Schemas } from "../../api/client";
import { lastsWords } from "../stockroom/words";
import { Bar } from "../../ui/Bar";

/** What runs out soonest, and how the shop does, in a row of tiles. */
export function Tiles() {
  const { data: items } = useQuery({ queryKey: ["stockroom"], queryFn: () => call("get_stockroom", {}) });
  const { data: figures } = useQuery({ queryKey: ["figures", 90, "", ""], queryFn: () => call("get_figures", { query: { days: 90 } }) });
  const soonest = [...(items ?? [])]
    .filter((item) => item.forecast || (item.level !== null && item.level <= 0 && item.used > 0))
    .sort((a, b) => (a.forecast?.lasts_days ?? 0) - (b.forecast?.lasts_days ?? 0))
    .slice(0, 3);
  const points = figures?.yields.points ?? [];
  const slips = figures?.slips.points ?? [];
  const last = points.slice(-20);
  const yieldNow = last.length ? last.reduce((sum, point) => sum + point.value, 0) / last.length : null;
  return (
    <section aria-label="Stock and yield" className="grid grid-cols-2 gap-3 min-[900px]:grid-cols-[repeat(auto-fit,minmax(190px,1fr))]">
      {soonest.map((item) => <ItemTile key={item.item} item={item} />)}
      {soonest.length === 0 && (
        <Tile to="/stockroom" title="Stock, ink and blades" value="counting" unit="" hint="Order dates appear after a week of use." />
      )}
      <Tile to="/figures" title="Good stickers" value={yieldNow === null ? "–" : `${(yieldNow * 100).toFixed(1)} %`} unit={last.length ? `of ${last.length} counted cuts` : "nothing counted"} share={yieldNow ?? 0} hint={points.length === 0 ? "count a cut sheet at its log" : points.some((point) => point.outside) ? "a cut lies outside the limits" : "within the usual limits"} />
      <Tile to="/figures" title="Slip" value={slips.length ? `${slips.at(-1)!.value.toFixed(2)} mm` : "–"} unit={slips.length ? "mean of the last cut" : "nothing measured"} share={slips.length ? Math.min(1, slips.at(-1)!.value / 0.5) : 0} hint={figures?.slips.middle == null ? "" : `usually ${figures.slips.middle.toFixed(2)} mm`} />
    </section>
  );
}

function ItemTile({ item }: { item: Schemas["ItemView"] }) {
  const { forecast } = item;
  const order = forecast && forecast.order > 0;
  const share = forecast ? Math.min(1, (item.level ?? 0) / Math.max(forecast.reorder_at * 2, 1e-6)) : 0;
  return (
    <Tile
      to={`/stockroom?item=${encodeURIComponent(item.item)}`}
      title={item.name}
      value={`${Math.round(item.level ?? 0)} ${item.unit}`}
      unit={forecast ? lastsWords(forecast.lasts_days) : ""}
      share={share}
      look={Boolean(order)}
      hint={order ? `order ${Math.round(forecast.order)} now` : forecast ? "nothing to do" : "count what is there"}
    />
  );
}

function Tile({ to, title, value, unit, share = 0, hint, look = false }: { to: string; title: string; value: string; unit: string; share?: number; hint: string; look?: boolean }) {
  return (
    <Link to={to} className="min-w-0 rounded-lg border border-rule bg-paper px-3.5 py-2 hover:border-act">
      <span className="block truncate text-[12.5px] text-quiet">{title}</span>
      <span className="block truncate"><b className="figure text-[17px] font-medium">{value}</b> <span className="text-[12.5px] text-quiet">{unit}</span></span>
      <Bar share={share} label={`${title}: ${value}`} tone={look ? "bg-look" : "bg-act"} />
      <span className={`block truncate text-[12.5px] ${look ? "text-look" : "text-quiet"}`}>{hint}</span>
    </Link>
  );
}
