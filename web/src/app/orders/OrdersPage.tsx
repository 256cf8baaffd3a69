import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";

import { call, previewUrl, urlOf } from "../../api/client";
import { count } from "../../job/stubs";
import { useMoney } from "../../job/useShop";
import { useAsk } from "../../ui/Ask";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { useNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";
import { clockOf, dayOf } from "../../ui/when";
import { Bar } from "../../ui/Bar";
import { ShopFrame } from "../ShopFrame";
import type { Order } from "./order";
import { OrderForm } from "./OrderForm";


const lackingOf = (order: Order) => order.lines.reduce((sum, line) => sum + Math.max(0, line.quantity - line.good), 0);

/** Asks before an order is sent for less than all, or cancelled; what becomes of the rest, undefined for nothing done. */
async function closing(ask: ReturnType<typeof useAsk>, order: Order, next: Order["state"]): Promise<"open" | "cancel" | null | undefined> {
  const lacking = lackingOf(order);
  if (next === "cancelled")
    return (await ask({ title: `Cancel the order of ${order.who}?`, detail: "Stickers made for it become spares. You can reopen the order.", acts: [{ value: "yes", label: "Cancel the order", kind: "stop" }], cancel: "Keep the order" })) ? null : undefined;
  if (next !== "sent" || lacking === 0) return null;
  const answer = await ask({
    title: `${count(lacking, "sticker")} of this order are missing`,
    detail: "Send what is ready. The rest stays open as an order of its own, or is cancelled.",
    acts: [{ value: "open", label: "Send, keep the rest open" }, { value: "cancel", label: "Send, cancel the rest", kind: "stop" }],
  });
  return answer === "open" || answer === "cancel" ? answer : undefined;
}

/** Orders: what is open, made together on shared sheets, packed and sent. */
export function OrdersPage() {
  const client = useQueryClient();
  const tell = useNotice();
  const navigate = useNavigate();
  const ask = useAsk();
  const [params, setParams] = useSearchParams();
  const [state, setState] = useState<Order["state"]>("open");
  const [named, setNamed] = useState("");
  const [ticked, setTicked] = useState<number[]>([]);
  const [entering, setEntering] = useState<Order | "new" | null>(null);
  const { data: orders } = useQuery({
    queryKey: ["orders", state, named],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => call("get_orders", { signal, query: { state, named } }),
  });
  const again = () => {
    void client.invalidateQueries({ queryKey: ["orders"] });
    void client.invalidateQueries({ queryKey: ["day"] });
  };
  const chosen = orders?.find((order) => order.id === Number(params.get("order"))) ?? orders?.[0];
  const unmade = (order: Order) => order.lines.some((line) => line.job === null);
  const together = ticked.filter((id) => orders?.some((order) => order.id === id));
  const make = async (ids: number[]) => {
    try {
      const { jobs } = await call("post_order_jobs", { body: { orders: ids } });
      setTicked([]);
      again();
      void navigate(jobs.length === 1 ? `/jobs/${jobs[0]}/sheet` : "/");
    } catch (problem) {
      tell(problem);
    }
  };
  const close = async (order: Order, next: Order["state"]) => {
    const rest = await closing(ask, order, next);
    if (rest === undefined) return;
    await call("put_order_state", { path: { order_id: order.id }, body: { version: order.version, state: next, rest } }).then(again).catch(tell);
  };
  return (
    <ShopFrame actions={[{ label: "New order", act: () => setEntering("new") }]}>
      <main className="grid min-h-0 grow gap-3 p-3.5 min-[1000px]:grid-cols-[minmax(0,1fr)_400px]">
        <section aria-label="Orders" className="flex min-h-0 flex-col rounded-lg border border-rule bg-paper">
          <div className="perforated flex flex-wrap items-center gap-3 px-4 py-2.5">
            <h1 className="text-[18px]">Orders</h1>
            <Choice label="Which orders" value={state} options={[{ value: "open", label: "Open" }, { value: "sent", label: "Sent" }, { value: "cancelled", label: "Cancelled" }]} onChange={setState} />
            <input aria-label="Find by name or number" placeholder="Name or number" value={named} onChange={(event) => setNamed(event.target.value)} className="min-w-0 grow rounded-md border border-rule px-2.5 py-1" />
            {together.length > 1 && <Button kind="act" onClick={() => void make(together)}>Make {together.length} together</Button>}
            <Button kind={together.length > 1 ? "plain" : "act"} onClick={() => setEntering("new")}>New order</Button>
          </div>
          {orders?.length === 0 && (
            <p className="p-4 text-quiet">{state === "open" ? "No open orders. An order lists designs from the shelf. Several orders can share sheets and are sorted after the cut." : "None."}</p>
          )}
          <ul className="min-h-0 overflow-y-auto">
            {(orders ?? []).map((order) => {
              const wanted = order.lines.reduce((sum, line) => sum + line.quantity, 0);
              const good = order.lines.reduce((sum, line) => sum + line.good, 0);
              return (
                <li key={order.id} className={`flex items-center border-b border-[#e6ecea] ${order.id === chosen?.id ? "bg-act-pale" : "hover:bg-card"}`}>
                  {state === "open" && (
                    <input
                      type="checkbox"
                      aria-label={`Make the order of ${order.who} with others`}
                      title={unmade(order) ? "Tick two or more to make them together" : "Already in a job"}
                      disabled={!unmade(order)}
                      checked={together.includes(order.id)}
                      onChange={() => setTicked(together.includes(order.id) ? together.filter((id) => id !== order.id) : [...together, order.id])}
                      className="ml-4 accent-act disabled:opacity-30"
                    />
                  )}
                  <button type="button" aria-pressed={order.id === chosen?.id} onClick={() => setParams({ order: String(order.id) }, { replace: true })} className="grid min-w-0 grow grid-cols-[52px_minmax(0,1.2fr)_minmax(0,1.4fr)_120px_110px] items-center gap-3 px-4 py-2 text-left">
                    <span className="figure text-[12px] text-quiet">{order.id}</span>
                    <b className="truncate font-semibold">{order.who}</b>
                    <span className="truncate text-[12.5px] text-quiet">{order.lines.map((line) => `${line.quantity} × ${line.name}`).join(", ")}</span>
                    <Bar share={wanted ? good / wanted : 0} label={`${good} of ${wanted} are good`} tone={order.complete ? "bg-good" : "bg-act"} />
                    <span className={`text-right text-[12.5px] ${order.state === "open" && order.due_at && new Date(order.due_at).getTime() < Date.now() ? "font-semibold text-stop" : "text-quiet"}`}>{order.due_at ? dayOf(order.due_at) : "no day"}</span>
                  </button>
                </li>
              );
            })}
          </ul>
        </section>
        {chosen && <OneOrder key={chosen.id} order={chosen} onMake={() => void make([chosen.id])} onClose={(order, next) => void close(order, next)} onEdit={() => setEntering(chosen)} unmade={unmade(chosen)} />}
      </main>
      {entering && (
        <OrderForm
          order={entering === "new" ? null : entering}
          onClose={(kept) => {
            setEntering(null);
            if (kept) {
              again();
              setState("open");
              setParams({ order: String(kept.id) }, { replace: true });
            }
          }}
        />
      )}
    </ShopFrame>
  );
}

function OneOrder({ order, unmade, onMake, onClose, onEdit }: { order: Order; unmade: boolean; onMake: () => void; onClose: (order: Order, state: Order["state"]) => void; onEdit: () => void }) {
  const { length } = useUnits();
  const money = useMoney();
  const jobs = [...new Set(order.lines.flatMap((line) => (line.job === null ? [] : [line.job])))];
  const link = "inline-flex rounded-md border border-rule bg-paper px-3 py-1.5 hover:border-act";
  return (
    <section aria-label={`Order ${order.id}`} className="min-h-0 overflow-y-auto rounded-lg border border-rule bg-card">
      <div className="perforated px-4 py-3">
        <small className="figure text-[11px] text-quiet">ORDER {order.id}</small>
        <h2 className="text-[17px]">{order.who}</h2>
        {order.address && <p className="text-[12.5px] whitespace-pre-line text-quiet">{order.address}</p>}
        <p className="pt-1">
          {order.due_at ? `Due ${dayOf(order.due_at)} ${clockOf(order.due_at)}` : "No due date"}
          {order.price !== null && ` · ${money(order.price)} for all`}
          {order.state !== "open" && ` · ${order.state}`}
        </p>
        {order.note && <p className="pt-1 text-quiet">{order.note}</p>}
      </div>
      <ul className="px-4 py-1">
        {order.lines.map((line) => (
          <li key={`${line.item} ${line.longest_mm}`} className="flex items-center gap-3 border-b border-[#e1e8e5] py-1.5 last:border-b-0">
            <img src={previewUrl(line.picture)} alt="" className="size-10 shrink-0 rounded border border-rule bg-paper object-contain p-0.5" />
            <span className="min-w-0 grow">
              <b className="block truncate font-semibold">{line.name}</b>
              <span className="text-[12.5px] text-quiet">
                {length(line.longest_mm, 0)} {line.job === null ? "· not in a job yet" : <>· <Link to={`/jobs/${line.job}/log`} className="text-act underline underline-offset-2">job {String(line.job).padStart(4, "0")}</Link></>}
              </span>
            </span>
            <span className={`figure text-[13px] ${line.good >= line.quantity ? "text-good" : ""}`}>{line.good} of {line.quantity}</span>
          </li>
        ))}
      </ul>
      <div className="flex flex-wrap gap-2 border-t border-rule px-4 py-3">
        {unmade && order.state === "open" && <Button kind="act" onClick={onMake}>Make it</Button>}
        {order.state === "open" && (order.complete || order.lines.some((line) => line.good > 0)) && (
          <Button kind={order.complete ? "act" : "plain"} onClick={() => onClose(order, "sent")}>{order.complete ? "Mark as sent" : "Send in part …"}</Button>
        )}
        <a href={urlOf("get_packing_list", { order_id: order.id })} target="_blank" rel="noreferrer" className={link}>Packing list</a>
        <a href={urlOf("get_addresses", {}, { order: order.id })} target="_blank" rel="noreferrer" className={link}>Address</a>
        {order.state === "open" && <Button onClick={onEdit}>Change …</Button>}
        {order.state === "open" ? <Button onClick={() => onClose(order, "cancelled")}>Cancel the order …</Button> : <Button onClick={() => onClose(order, "open")}>Reopen</Button>}
      </div>
      {jobs.length > 0 && order.state === "open" && !order.complete && (
        <p className="px-4 pb-3 text-quiet">{count(lackingOf(order), "sticker")} still to make. Bad stickers are counted at the job's log and planned again there.</p>
      )}
    </section>
  );
}
