import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Link } from "react-router";

import { call, type Schemas } from "../../api/client";
import { count } from "../../job/stubs";
import { Button } from "../../ui/Button";
import { useNotice } from "../../ui/Notice";
import { clockOf, dayOf } from "../../ui/when";
import { ShopFrame } from "../ShopFrame";
import { Bar } from "../../ui/Bar";
import type { Day } from "./day";
import { PinDialog } from "./PinDialog";
import { Tiles } from "./Tiles";
import { Timeline } from "./Timeline";

export const DAY_KEY = ["day"];

/** The shop's page: the one thing to do now, the day by machine, what is due, and what runs out. */
export function TodayPage() {
  const client = useQueryClient();
  const tell = useNotice();
  const [pinning, setPinning] = useState<Schemas["DayStep"] | null>(null);
  const { data: day } = useQuery({ queryKey: DAY_KEY, queryFn: () => call("get_day", {}), refetchInterval: 20_000 });
  const { mutate: plan, isPending: planning } = useMutation({
    mutationFn: () => call("post_plan", { waitS: 20 }),
    onSettled: () => client.invalidateQueries({ queryKey: DAY_KEY }),
    onError: tell,
  });
  // What changed is planned anew by itself, once for each change.
  const stale = day !== undefined && !day.fresh;
  useEffect(() => {
    if (stale) plan();
  }, [stale, plan]);
  const save = async (late: Schemas["LateView"]) => {
    try {
      for (const [step, start_at] of Object.entries(late.moves)) await call("put_pin", { path: { job_id: late.job, step }, body: { start_at } });
      plan();
    } catch (problem) {
      tell(problem);
    }
  };
  if (!day) return <ShopFrame>{null}</ShopFrame>;
  return (
    <ShopFrame actions={[{ label: "Plan the day again", words: "schedule", act: () => plan() }]}>
      <main className="grid min-h-0 grow grid-rows-[auto_minmax(0,1fr)_auto] gap-3 overflow-y-auto p-3.5">
        <Now act={day.now} />
        <div className="grid min-h-[330px] gap-3 min-[1150px]:grid-cols-[minmax(0,1fr)_310px]">
          <section aria-label="The day by machine" className="flex min-h-0 min-w-0 flex-col rounded-lg border border-rule bg-paper">
            <Timeline
              day={day}
              told={planning ? "planning …" : toldOf(day)}
              onChoose={setPinning}
            />
          </section>
          <Due day={day} onSave={(late) => void save(late)} />
        </div>
        <Tiles />
      </main>
      {pinning && (
        <PinDialog
          key={`${pinning.job} ${pinning.step}`}
          step={pinning}
          onClose={(changed) => {
            setPinning(null);
            if (changed) plan();
          }}
        />
      )}
    </ShopFrame>
  );
}

const toldOf = (day: Day) =>
  day.problem || (day.to_do === 0 ? "nothing is due" : day.late.length ? `${count(day.late.length, "job")} would be late` : `${count(day.to_do, "job")}, everything in time`);

/** The one thing to do now. */
export function Now({ act }: { act: Schemas["ActView"] }) {
  return (
    <section aria-label="To do now" className="flex items-center gap-5 rounded-lg border border-rule bg-paper px-5 py-3">
      <span aria-hidden className="font-head text-[30px] leading-none font-semibold text-act">now</span>
      <div className="min-w-0 grow">
        <h1 className="truncate text-[19px]" title={act.title}>{act.title}</h1>
        <p className="truncate text-quiet">{act.detail}</p>
      </div>
      <Link to={act.job === null ? `/${act.station}` : `/jobs/${act.job}/${act.station}`} className="shrink-0 rounded-md bg-act px-3.5 py-2 font-semibold text-white hover:bg-[#0b4a46]">
        {act.label}
      </Link>
    </section>
  );
}

/** Open orders with how far they are, and what would be late. */
function Due({ day, onSave }: { day: Day; onSave: (late: Schemas["LateView"]) => void }) {
  const { data: orders } = useQuery({ queryKey: ["orders", "open", ""], queryFn: () => call("get_orders", { query: { state: "open" } }) });
  return (
    <section aria-label="Orders" className="flex min-h-0 flex-col rounded-lg border border-rule bg-paper">
      <div className="perforated flex items-baseline justify-between px-3.5 py-2">
        <h2 className="text-[15px]">Orders</h2>
        <Link to="/orders" className="text-[12.5px] text-act underline underline-offset-2">{orders ? `${orders.length} open` : ""}</Link>
      </div>
      <div className="min-h-0 grow overflow-y-auto">
        {day.late.map((late) => (
          <div key={late.job} className="mx-2.5 mt-2.5 rounded-md border border-look bg-look-pale px-2.5 py-2">
            <p>
              <Link to={`/jobs/${late.job}/sheet`} className="font-semibold underline underline-offset-2">{late.title}</Link>
              {" "}would be {late.minutes < 120 ? `${late.minutes} min` : `${Math.round(late.minutes / 60)} h`} late. {late.remedy}
            </p>
            {Object.keys(late.moves).length > 0 && <p className="pt-1.5"><Button onClick={() => onSave(late)}>Do it first</Button></p>}
          </div>
        ))}
        {orders?.length === 0 && <p className="p-3.5 text-quiet">No open orders. Enter one at Orders, with designs from the shelf.</p>}
        <ul>
          {(orders ?? []).slice(0, 12).map((order) => {
            const wanted = order.lines.reduce((sum, line) => sum + line.quantity, 0);
            const good = order.lines.reduce((sum, line) => sum + line.good, 0);
            return (
              <li key={order.id} className="border-b border-rule px-3.5 py-2 last:border-b-0">
                <Link to={`/orders?order=${order.id}`} className="block hover:text-act">
                  <span className="flex items-baseline justify-between gap-2">
                    <b className="truncate font-semibold">{order.who}</b>
                    <span className="figure text-[12px] text-quiet">{order.id}</span>
                  </span>
                  <span className="flex justify-between text-[12.5px] text-quiet">
                    <span className="truncate">{order.lines.map((line) => line.name).join(", ")}</span>
                    <span className="shrink-0 pl-2">{order.due_at ? `${dayOf(order.due_at)} ${clockOf(order.due_at)}` : "no day"}</span>
                  </span>
                  <Bar share={wanted ? good / wanted : 0} label={`${good} of ${wanted} are good`} />
                </Link>
              </li>
            );
          })}
        </ul>
      </div>
    </section>
  );
}
