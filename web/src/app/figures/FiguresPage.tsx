import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link } from "react-router";
import { Bar, CartesianGrid, ComposedChart, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";

import { call, type Schemas, urlOf } from "../../api/client";
import { useShop } from "../../job/useShop";
import { Choice } from "../../ui/Choice";
import { clockOf, dayOf } from "../../ui/when";
import { ShopFrame } from "../ShopFrame";

type Chart = Schemas["ChartView"];
type Share = Schemas["ShareView"];
const SPANS = [{ value: "30", label: "30 days" }, { value: "90", label: "90 days" }, { value: "365", label: "A year" }];
const TEXT = { fontSize: 11, fontFamily: "var(--font-figure)", fill: "#52615c" };

/** Yield and slip over time with their limits, causes, hours and waste; each plot has its table. */
export function FiguresPage() {
  const shop = useShop();
  const [days, setDays] = useState("90");
  const [plotter, setPlotter] = useState("");
  const [stock, setStock] = useState("");
  const { data } = useQuery({
    queryKey: ["figures", Number(days), plotter, stock],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => call("get_figures", { signal, query: { days: Number(days), plotter: plotter || null, stock: stock || null } }),
  });
  const select = "rounded-md border border-rule bg-paper px-2 py-1 hover:border-act";
  return (
    <ShopFrame>
      <main className="min-h-0 grow overflow-y-auto p-4">
        <div className="flex flex-wrap items-center gap-3 pb-3">
          <h1 className="text-[18px]">Figures</h1>
          <Choice label="Period" value={days} options={SPANS} onChange={setDays} />
          <select aria-label="Plotter" value={plotter} onChange={(event) => setPlotter(event.target.value)} className={select}>
            <option value="">all plotters</option>
            {shop?.plotters.map((each) => <option key={each.id} value={each.id}>{each.name}</option>)}
          </select>
          <select aria-label="Stock" value={stock} onChange={(event) => setStock(event.target.value)} className={select}>
            <option value="">all stocks</option>
            {shop?.stocks.map((each) => <option key={each.id} value={each.id}>{each.name}</option>)}
          </select>
          <span className="grow" />
          <a href={urlOf("get_csv", { table: "run" })} download className="text-act underline underline-offset-2">Every cut as CSV</a>
        </div>
        {data && (
          <div className="grid gap-3 min-[1000px]:grid-cols-2">
            <OverTime title="Good stickers of each cut" chart={data.yields} told={(value) => `${(value * 100).toFixed(1)} %`} empty="Count a cut sheet at its log to see its yield here." domain={[0, 1]} />
            <OverTime title="Mean slip of a cut, mm" chart={data.slips} told={(value) => value.toFixed(3)} empty="The slip of each measured cut appears here." domain={[0, "auto"]} />
            <Pareto title="Causes of bad stickers" shares={data.causes} empty="No bad sticker was counted." />
            <Hours hours={data.hours} waste={data.waste} />
          </div>
        )}
      </main>
    </ShopFrame>
  );
}

function Card({ title, table, children }: { title: string; table?: ReactNode; children: ReactNode }) {
  const [listed, setListed] = useState(false);
  return (
    <section aria-label={title} className="min-w-0 rounded-lg border border-rule bg-paper">
      <div className="perforated flex items-baseline justify-between px-4 py-2">
        <h2 className="text-[15px]">{title}</h2>
        {table && <button type="button" aria-pressed={listed} onClick={() => setListed(!listed)} className="text-[12.5px] text-act underline underline-offset-2">{listed ? "Chart" : "Table"}</button>}
      </div>
      <div className="p-3">{listed && table ? <div className="max-h-[230px] overflow-y-auto">{table}</div> : children}</div>
    </section>
  );
}

interface Dot { cx?: number; cy?: number; payload?: { outside: boolean } }

/** A point outside the limits is larger, another shape and colour. */
function Spot({ cx, cy, payload }: Dot) {
  if (cx === undefined || cy === undefined) return null;
  return payload?.outside ? <path d={`M${cx} ${cy - 6}l6 10h-12z`} fill="#a3301e" /> : <circle cx={cx} cy={cy} r={2.5} fill="#0f5c57" />;
}

function OverTime({ title, chart, told, empty, domain }: { title: string; chart: Chart; told: (value: number) => string; empty: string; domain: [number, number | "auto"] }) {
  if (chart.points.length === 0) return <Card title={title}><p className="py-6 text-center text-quiet">{empty}</p></Card>;
  const rows = chart.points.map((point, n) => ({ ...point, n: n + 1 }));
  const outside = chart.points.filter((point) => point.outside);
  const table = (
    <table className="figure w-full text-[12px]">
      <thead className="text-left text-quiet"><tr><th className="font-normal">cut</th><th className="font-normal">when</th><th className="text-right font-normal">value</th><th className="text-right font-normal">limits</th></tr></thead>
      <tbody>
        {[...chart.points].reverse().map((point) => (
          <tr key={point.run} className={point.outside ? "text-stop" : ""}>
            <td><Link to={`/jobs/${point.job}/log`} className="underline underline-offset-2">{point.run}</Link></td>
            <td>{dayOf(point.at)} {clockOf(point.at)}</td>
            <td className="text-right">{told(point.value)}</td>
            <td className="text-right">{point.low === null || point.high === null ? "" : `${told(point.low)} to ${told(point.high)}`}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
  return (
    <Card title={title} table={table}>
      <ResponsiveContainer width="100%" height={190}>
        <LineChart data={rows} margin={{ top: 8, right: 12, bottom: 0, left: 0 }} accessibilityLayer>
          <CartesianGrid stroke="#eef2f0" />
          <XAxis dataKey="n" tick={TEXT} tickLine={false} label={undefined} />
          <YAxis domain={domain} tick={TEXT} width={64} tickFormatter={(value: number) => told(value)} />
          <Tooltip formatter={(value) => told(Number(value))} labelFormatter={(n) => { const point = rows[Number(n) - 1]; return point ? `Cut ${point.run}, ${dayOf(point.at)}` : ""; }} />
          {chart.middle !== null && <Line dataKey={() => chart.middle} name="in the middle" stroke="#8b9691" strokeDasharray="6 4" dot={false} isAnimationActive={false} />}
          <Line dataKey="low" name="lower limit" stroke="#a55f00" strokeDasharray="2 3" dot={false} isAnimationActive={false} type="step" />
          <Line dataKey="high" name="upper limit" stroke="#a55f00" strokeDasharray="2 3" dot={false} isAnimationActive={false} type="step" />
          <Line dataKey="value" name={title.toLowerCase()} stroke="#0f5c57" strokeWidth={1.5} dot={<Spot />} isAnimationActive={false} />
        </LineChart>
      </ResponsiveContainer>
      {chart.middle === null && <p className="text-[12.5px] text-quiet">Limits are drawn from five cuts on.</p>}
      {outside.slice(-3).map((point) => (
        <p key={point.run} className="text-[12.5px] text-stop">
          Cut {point.run}, {dayOf(point.at)}: {told(point.value)} is outside the usual limits.{point.changed.length > 0 ? ` That day: ${point.changed.slice(0, 4).join(", ")}.` : " Nothing was changed at the machines that day."}
        </p>
      ))}
    </Card>
  );
}

function Pareto({ title, shares, empty }: { title: string; shares: Share[]; empty: string }) {
  if (shares.length === 0) return <Card title={title}><p className="py-6 text-center text-quiet">{empty}</p></Card>;
  return (
    <Card title={title} table={<Shares shares={shares} />}>
      <ResponsiveContainer width="100%" height={190}>
        <ComposedChart data={shares} margin={{ top: 8, right: 4, bottom: 0, left: 0 }} accessibilityLayer>
          <CartesianGrid stroke="#eef2f0" vertical={false} />
          <XAxis dataKey="name" tick={{ ...TEXT, fontFamily: "var(--font-text)" }} interval={0} tickLine={false} />
          <YAxis yAxisId="n" tick={TEXT} width={36} allowDecimals={false} />
          <YAxis yAxisId="share" orientation="right" domain={[0, 1]} tick={TEXT} width={44} tickFormatter={(value: number) => `${Math.round(value * 100)} %`} />
          <Tooltip formatter={(value, name) => (name === "together" ? `${Math.round(Number(value) * 100)} %` : String(value))} />
          <Bar yAxisId="n" dataKey="count" name="stickers" fill="#4c7e9b" isAnimationActive={false} />
          <Line yAxisId="share" dataKey="cumulative" name="together" stroke="#a55f00" dot={{ r: 2.5 }} isAnimationActive={false} />
        </ComposedChart>
      </ResponsiveContainer>
    </Card>
  );
}

function Shares({ shares }: { shares: Share[] }) {
  return (
    <table className="w-full text-[13px]">
      <tbody>
        {shares.map((share) => (
          <tr key={share.name} className="border-b border-[#e6ecea] last:border-b-0"><td className="py-0.5">{share.name}</td><td className="figure text-right">{share.count}</td><td className="figure w-20 text-right text-quiet">{Math.round(share.cumulative * 100)} %</td></tr>
        ))}
      </tbody>
    </table>
  );
}

function Hours({ hours, waste }: { hours: Record<string, number>; waste: Share[] }) {
  const all = Object.values(hours).reduce((sum, each) => sum + each, 0);
  const told = (hour: number) => (hour < 1 ? `${Math.round(hour * 60)} min` : `${hour.toFixed(1)} h`);
  return (
    <Card title="Hours and waste">
      <table className="w-full text-[13px]">
        <tbody>
          {Object.entries(hours).map(([name, hour]) => (
            <tr key={name} className="border-b border-[#e6ecea]">
              <td className="w-36 py-1">{name}</td>
              <td><span aria-hidden className="block h-2.5 rounded bg-act" style={{ width: `${all ? (hour / all) * 100 : 0}%` }} /></td>
              <td className="figure w-24 text-right">{told(hour)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="pt-1 text-[12.5px] text-quiet">Cutting times are measured. The others are your estimates per sheet, sticker and print.</p>
      <h3 className="pt-3 pb-0.5 text-[14px]">Printed sheets thrown away</h3>
      {waste.length === 0 ? <p className="text-quiet">None.</p> : <Shares shares={waste} />}
    </Card>
  );
}
