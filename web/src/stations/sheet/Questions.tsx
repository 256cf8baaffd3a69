import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { CountField } from "../../ui/CountField";
import { Fold } from "../../ui/Fold";
import { Reading, Row } from "../../ui/Reading";
import { Slide } from "../../ui/Slide";
import { useUnits } from "../../ui/units";
import { count } from "../../job/stubs";
import { useMoney } from "../../job/useShop";
import { NestedSize } from "./NestedSize";

/** How large so that so many fit; how many to print, on how many sheets, so that the order is full. */
export function Questions() {
  const { job, selected, change } = useJob();
  const { length } = useUnits();
  const money = useMoney();
  const designs = job.recipe.designs ?? [];
  const [up, setUp] = useState(12);
  const [orders, setOrders] = useState<Record<string, number>>({});
  const [rejects, setRejects] = useState<number | null>(null);
  const design = selected ?? designs[0];
  // What orders ask for each piece, where the job is made for some.
  const asked = new Map(job.order.map((line) => [line.design, line.wanted]));
  const ordered = Object.fromEntries(designs.map((each) => [each.id, orders[each.id] ?? (job.recipe.order ? asked.get(each.id) : undefined) ?? 50]));
  const { data, isPlaceholderData: older } = useQuery({
    queryKey: ["questions", job.id, job.revision, design?.id, up, ordered, rejects],
    enabled: Boolean(design),
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) =>
      call("post_questions", { signal, body: { recipe: job.recipe, design: design!.id, up, orders: ordered, reject_share: rejects } }),
  });
  if (!design) return null;
  const unordered = designs.find((each) => ordered[each.id] === 0);
  const largest = data?.largest_mm == null ? null : Math.floor(data.largest_mm * 10) / 10;
  const total = Object.values(data?.to_print ?? {}).reduce((a, b) => a + b, 0);
  return (
    <Fold title="Questions" told={data ? `${up} a sheet: ${largest === null ? "never" : length(largest)} · order: ${count(data.sheets, "sheet")}` : undefined}>
      <CountField label="How many on one sheet" value={up} min={1} max={1000} onKeep={setUp} />
      <Reading label={`${design.name}, longest side`}>{largest === null ? "never fits" : length(largest)}</Reading>
      {largest !== null && largest !== design.longest_mm && (
        <p className="px-3.5 pb-1">
          <Button
            disabled={older}
            onClick={() =>
              void change(`${design.name} ${length(largest)}, ${up} on a sheet`, (before) => ({
                ...before,
                designs: (before.designs ?? []).map((each) => (each.id === design.id ? { ...each, longest_mm: largest } : each)),
              }))
            }
          >
            Make it {length(largest)}
          </Button>
        </p>
      )}
      <NestedSize key={`${design.id} ${up} ${job.revision}`} design={design} up={up} />
      <div className="mx-3.5 my-1 border-t border-dashed border-rule" />
      {designs.map((each) => (
        <CountField key={each.id} label={`Ordered: ${each.name}`} value={ordered[each.id]!} min={0} max={100000} onKeep={(number) => setOrders((before) => ({ ...before, [each.id]: number }))} />
      ))}
      <Slide label="Usual rejects" min={0} max={30} value={Math.round((data?.reject_share ?? 0.03) * 100)} say={(value) => `${value} %`} onKeep={(value) => setRejects(value / 100)} />
      {rejects === null && data && (
        <p className="px-3.5 pb-1 text-[12.5px] text-quiet">{data.counted ? `From ${data.counted} stickers in the log.` : "A usual share: the log has counted too few yet."}</p>
      )}
      <Row>
        <span className="text-quiet">Print, to be 95 % sure</span>
        <span className="figure text-[13px]">{total} on {count(data?.sheets ?? 0, "sheet")}</span>
      </Row>
      {data && total > 0 && (
        <>
          <Reading label="Stock needed">{money(data.order_cost.stock)}</Reading>
          <Reading label="Ink needed">{money(data.order_cost.ink)}</Reading>
        </>
      )}
      {data && total > 0 && <Reading label="Each sticker costs">{money(data.order_cost.each, 3)}</Reading>}
      {data && data.left_out > 0 && <p className="px-3.5 pb-1 text-stop">{count(data.left_out, "sticker")} does not fit the sheets of one job: make two jobs of it.</p>}
      {data && total > 0 && unordered && <p className="px-3.5 pb-1 text-[12.5px] text-quiet">{unordered.name} is not ordered: take it out of the job before you print the order.</p>}
      {data && total > 0 && data.left_out === 0 && !unordered && (
        <p className="px-3.5 pb-1">
          <Button
            disabled={older}
            onClick={() =>
              void change(`Print ${total} for the order`, (before) => ({
                ...before,
                order: true,
                // On a theme sheet copies are counted on one card: it is cards that are printed.
                ...(data.cards != null && before.sheet?.card
                  ? { sheet: { ...before.sheet, fill: false, card: { ...before.sheet.card, copies: data.cards } } }
                  : { sheet: { ...before.sheet!, fill: false }, designs: (before.designs ?? []).map((each) => ({ ...each, copies: data.to_print[each.id] ?? each.copies })) }),
              }))
            }
          >
            Print {total}
          </Button>
        </p>
      )}
    </Fold>
  );
}
