import { useQueries } from "@tanstack/react-query";
import { X } from "lucide-react";
import { useState } from "react";

import { call, type Recipe, type SheetRecipe } from "../../api/client";
import { useJob } from "../../job/job";
import { useMoney } from "../../job/useShop";
import { ended } from "../../job/operations";
import { Button } from "../../ui/Button";
import { Fold } from "../../ui/Fold";
import { useUnits } from "../../ui/units";

const MOST = 4;
const NAMES = { rows: "Rows", nest: "Nested", hand: "By hand" };

interface Way {
  name: string;
  sheet: SheetRecipe;
}

async function workedOut(recipe: Recipe, signal: AbortSignal) {
  if (recipe.sheet?.method === "nest") await ended(await call("post_nest", { signal, body: recipe }), signal);
  const sheets = await call("post_sheets", { signal, body: recipe });
  const design = recipe.designs![0]!.id;
  const cost = (await call("post_questions", { signal, body: { recipe, design, up: 1, orders: {} } })).plan_cost;
  return { sheets, cost };
}

/** Up to four ways to fill the sheets side by side, each used with one click. */
export function Compare() {
  const { job, change } = useJob();
  const { length } = useUnits();
  const money = useMoney();
  const [ways, setWays] = useState<Way[]>([]);
  const designs = job.recipe.designs ?? [];
  const answers = useQueries({
    queries: ways.map((way) => ({
      queryKey: ["way", designs, way.sheet],
      queryFn: ({ signal }: { signal: AbortSignal }) => workedOut({ ...job.recipe, sheet: way.sheet }, signal),
      staleTime: Infinity,
      enabled: designs.length > 0,
    })),
  });
  const now = job.recipe.sheet!;
  const nameOf = (sheet: SheetRecipe) =>
    `${NAMES[sheet.method ?? "rows"]}${sheet.method === "nest" ? `, ${sheet.turns ?? "quarter"}` : ""} · ${sheet.paper?.name ?? (sheet.stock === "letter" ? "Letter" : "A4")} · ${length(sheet.gap_mm ?? 2, 1)}`;
  const known = ways.some((way) => JSON.stringify(way.sheet) === JSON.stringify(now));
  const rows: [string, (at: number) => string][] = [
    ["Stickers", (at) => String(answers[at]?.data?.sheets.count ?? "…")],
    ["Sheets", (at) => String(answers[at]?.data?.sheets.sheets.length ?? "…")],
    ["Used", (at) => (answers[at]?.data ? `${Math.round(answers[at]!.data!.sheets.used_share * 100)} %` : "…")],
    ["Worst error", (at) => (answers[at]?.data?.sheets.worst_error_mm != null ? length(answers[at]!.data!.sheets.worst_error_mm!, 3) : "…")],
    ["Each costs", (at) => (answers[at]?.data ? money(answers[at]!.data!.cost.each, 3) : "…")],
  ];
  return (
    <Fold title="Compare layouts" told={ways.length ? `${ways.length} of ${MOST}` : undefined}>
      <p className="px-3.5 pb-1">
        <Button disabled={known || ways.length >= MOST} onClick={() => setWays([...ways, { name: nameOf(now), sheet: now }])}>Compare this layout</Button>
      </p>
      {ways.length > 0 && (
        <div className="overflow-x-auto px-3.5 pb-1">
          <table className="w-full text-[12.5px]" aria-label="Layouts side by side">
            <thead>
              <tr>
                <td />
                {ways.map((way, at) => (
                  <th key={at} scope="col" className="min-w-[72px] px-1 pb-1 text-left align-top font-normal">
                    {way.name}
                    <button type="button" aria-label={`Remove ${way.name}`} className="ml-1 rounded p-0.5 text-quiet hover:bg-stop-pale hover:text-stop" onClick={() => setWays(ways.filter((_, n) => n !== at))}><X size={11} /></button>
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map(([label, of]) => (
                <tr key={label} className="border-t border-rule">
                  <th scope="row" className="py-0.5 pr-1 text-left font-normal text-quiet">{label}</th>
                  {ways.map((_, at) => <td key={at} className="figure px-1">{of(at)}</td>)}
                </tr>
              ))}
              <tr>
                <td />
                {ways.map((way, at) => (
                  <td key={at} className="px-1 pt-1">
                    <Button kind="quiet" aria-label={`Use ${way.name}`} onClick={() => void change(way.name, (before) => ({ ...before, sheet: way.sheet }))}>Use</Button>
                  </td>
                ))}
              </tr>
            </tbody>
          </table>
        </div>
      )}
    </Fold>
  );
}
