import { CartesianGrid, Line, LineChart, ResponsiveContainer, Tooltip, XAxis, YAxis } from "recharts";

import type { Schemas } from "../../api/client";
import { useMoney, useShop } from "../../job/useShop";
import { CountField } from "../../ui/CountField";
import { Dialog } from "../../ui/Dialog";
import { useUnits } from "../../ui/units";
import { CostParts } from "./CostParts";

const TEXT = { fontSize: 11, fontFamily: "var(--font-figure)", fill: "#52615c" };

/** What a piece costs by quantity, size and stock, on one screen. */
export function WhatIf({ name, data, quantity, setQuantity, onClose }: { name: string; data: Schemas["JobCostView"]; quantity: number; setQuantity: (n: number) => void; onClose: () => void }) {
  const money = useMoney();
  const shop = useShop();
  const { length } = useUnits();
  const rows = data.quantities.map((cost) => ({ quantity: cost.quantity, cost: cost.each, price: cost.price / cost.quantity }));
  const cell = "py-0.5 text-right";
  return (
    <Dialog open wide title={`What ${name} costs`} description={`Alone on full sheets; of 100 stickers ${(data.reject_share * 100).toFixed(1)} are reckoned to be bad.`} onClose={onClose}>
      <div className="grid max-h-[74vh] grid-cols-2 gap-x-6 gap-y-2 overflow-y-auto p-4">
        <div className="col-span-2 -mx-3.5 w-80"><CountField label="How many" value={quantity} min={1} max={20_000} onKeep={setQuantity} /></div>
        <section aria-label="By quantity">
          <h3 className="text-[14px]">One, by quantity</h3>
          <ResponsiveContainer width="100%" height={170}>
            <LineChart data={rows} margin={{ top: 6, right: 18, bottom: 0, left: 0 }} accessibilityLayer>
              <CartesianGrid stroke="#eef2f0" />
              <XAxis dataKey="quantity" scale="log" domain={["dataMin", "dataMax"]} type="number" ticks={rows.map((row) => row.quantity)} tick={TEXT} />
              <YAxis tick={TEXT} width={56} tickFormatter={(value: number) => value.toFixed(2)} />
              <Tooltip formatter={(value) => money(Number(value), 3)} labelFormatter={(n) => `${n} of them`} />
              <Line dataKey="price" name="price" stroke="#0f5c57" dot={{ r: 2.5 }} isAnimationActive={false} />
              <Line dataKey="cost" name="costs" stroke="#a55f00" strokeDasharray="5 3" dot={{ r: 2 }} isAnimationActive={false} />
            </LineChart>
          </ResponsiveContainer>
          <table className="figure w-full text-[12px]">
            <thead className="text-quiet"><tr><th className="text-left font-normal">how many</th><th className={cell}>sheets</th><th className={cell}>cost each</th><th className={cell}>price each</th><th className={cell}>for all</th></tr></thead>
            <tbody>
              {data.quantities.map((cost) => (
                <tr key={cost.quantity} className={cost.quantity === quantity ? "bg-act-pale" : ""}>
                  <td>{cost.quantity}</td><td className={cell}>{cost.sheets}</td><td className={cell}>{money(cost.each, 3)}</td><td className={cell}>{money(cost.price / cost.quantity, 2)}</td><td className={cell}>{money(cost.price)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <section aria-label="By size and stock">
          <h3 className="text-[14px]">{quantity} of them, by size</h3>
          <Others rows={data.sizes.map((each) => ({ name: length(each.longest_mm, 0), cost: each.cost }))} />
          <h3 className="pt-3 text-[14px]">{quantity} of them, by stock</h3>
          <Others rows={data.stocks.map((each) => ({ name: shop?.stocks.find((stock) => stock.id === each.stock)?.name ?? each.stock, cost: each.cost }))} />
          <h3 className="pt-3 text-[14px]">What {quantity} are made of</h3>
          {data.quantities.filter((cost) => cost.quantity === quantity).map((cost) => <div key={cost.quantity} className="-mx-3.5"><CostParts cost={cost} open /></div>)}
        </section>
      </div>
    </Dialog>
  );
}

function Others({ rows }: { rows: { name: string; cost: Schemas["CostOf"] | null }[] }) {
  const money = useMoney();
  const most = Math.max(...rows.map(({ cost }) => cost?.total ?? 0), 1e-9);
  return (
    <table className="w-full text-[12.5px]">
      <tbody>
        {rows.map(({ name, cost }) => (
          <tr key={name}>
            <td className="w-36 py-0.5 pr-2">{name}</td>
            <td>{cost && <span aria-hidden className="block h-2 rounded bg-[#4c7e9b]" style={{ width: `${(cost.total / most) * 100}%` }} />}</td>
            <td className="figure w-36 text-right">{cost ? `${money(cost.each, 3)} · ${money(cost.price)}` : "does not fit"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
