import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";

import { call, type Run } from "../../api/client";
import { useJob } from "../../job/job";
import { Section } from "../../ui/Reading";

const MARKS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ";
const COLOURS = ["#0f5c57", "#4c7e9b", "#6e5a8e", "#8a6a3b", "#7a4b52", "#3f6f4a"];

/** Whose sticker lies where on a counted sheet, by order; a letter stands for each. */
export function useWhose(run: Run | undefined) {
  const { job } = useJob();
  const { data } = useQuery({
    queryKey: ["whose", job.id, job.runs.map((each) => `${each.id} ${each.count_version}`).join()],
    queryFn: () => call("get_whose", { path: { job_id: job.id } }),
  });
  const orders = Object.keys(data?.names ?? {}).map(Number);
  const letter = (order: number) => MARKS[orders.indexOf(order) % MARKS.length]!;
  const colour = (order: number) => COLOURS[orders.indexOf(order) % COLOURS.length]!;
  const sheet = data?.sheets.find((each) => each.run === run?.id);
  return { names: data?.names ?? {}, orders, letter, colour, sheet: sheet?.orders ?? [] };
}

type Whose = ReturnType<typeof useWhose>;

/** The letter of its order on every sticker. */
export function WhoseStickers({ run, whose }: { run: Run; whose: Whose }) {
  return (
    <g className="pointer-events-none">
      {(run.stickers ?? []).map((sticker, number) => {
        const order = whose.sheet[number];
        if (order == null) return null;
        const [left, top] = sticker.box as [number, number, number, number];
        return (
          <g key={number} transform={`translate(${left + 4} ${top + 4})`}>
            <circle r={3.4} fill={whose.colour(order)} />
            <text y={1.5} textAnchor="middle" fontSize={4.2} fill="#fff" className="font-semibold">{whose.letter(order)}</text>
          </g>
        );
      })}
    </g>
  );
}

export function WhoseSection({ whose }: { whose: Whose }) {
  if (whose.orders.length === 0) return null;
  return (
    <Section title="Stickers by order">
      <ul className="px-3.5">
        {whose.orders.map((order) => (
          <li key={order} className="flex items-center gap-2 py-0.5">
            <span className="grid size-5 shrink-0 place-items-center rounded-full text-[12px] font-semibold text-white" style={{ background: whose.colour(order) }}>{whose.letter(order)}</span>
            <Link to={`/orders?order=${order}`} className="min-w-0 grow truncate underline underline-offset-2 hover:text-act">{whose.names[order]}</Link>
            <span className="figure text-[12.5px]">{whose.sheet.filter((each) => each === order).length} here</span>
          </li>
        ))}
      </ul>
      {whose.sheet.length === 0 && <p className="px-3.5 text-quiet">Count this sheet, and each good sticker gets its order.</p>}
    </Section>
  );
}
