import { Link } from "react-router";

import { type Plotter, PLAIN_LINES, type SheetRecipe, type Sheets } from "../../api/client";
import { useJob } from "../../job/job";
import { stockId, useShop } from "../../job/useShop";
import { Button } from "../../ui/Button";
import { Fold } from "../../ui/Fold";
import { Reading } from "../../ui/Reading";
import { Select } from "../../ui/Select";
import { Toggle } from "../../ui/Toggle";
import { useUnits } from "../../ui/units";

export const SCHOOLS: Record<string, string> = { four: "four corners", three: "three corners", frame: "frame", pairs: "pairs at intervals" };

interface Props {
  sheets: Sheets;
  keep: (label: string, changes: Partial<SheetRecipe>) => void;
  moving: boolean;
  onMove: () => void;
}

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** Which stock of the shop, printed and cut by what, and where its marks stand. */
export function MachineSection({ sheets, keep, moving, onMove }: Props) {
  const { job, change } = useJob();
  const { length } = useUnits();
  const shop = useShop();
  const sheet = job.recipe.sheet!;
  const stock = stockId(sheet);
  const flags = sheets.outside.flat();
  const printer = sheet.printer?.id ?? shop?.printers[0]?.id ?? "";
  const plotter = sheet.plotter?.id ?? shop?.plotters[0]?.id ?? "";
  const marks = (sheet.plotter ?? shop?.plotters.find((each) => each.id === plotter))?.marks;
  /** What the stock and the knife do to lines follows them to every piece. */
  const choose = (label: string, changes: Partial<SheetRecipe>, lines: Partial<typeof PLAIN_LINES>) =>
    void change(label, (before) => ({
      ...before,
      sheet: { ...before.sheet!, ...changes, marks_at: [] },
      designs: (before.designs ?? []).map((each) => ({ ...each, lines: { ...PLAIN_LINES, ...each.lines, ...lines } })),
    }));
  const take = (id: string) => {
    const paper = shop?.stocks.find((each) => each.id === id);
    if (paper) choose(paper.name, { paper }, { face: paper.face });
  };
  const cutBy = (taken: Plotter | undefined) => taken && choose(taken.name, { plotter: taken }, { knife_offset_mm: taken.knife_offset_mm ?? 0.25 });
  const newer = shop && ([
    sheet.paper && !same(sheet.paper, shop.stocks.find((each) => each.id === stock) ?? sheet.paper) && "stock",
    sheet.printer && !same(sheet.printer, shop.printers.find((each) => each.id === printer) ?? sheet.printer) && "printer",
    sheet.plotter && !same(sheet.plotter, shop.plotters.find((each) => each.id === plotter) ?? sheet.plotter) && "plotter",
  ].filter(Boolean) as string[]);
  const outside = new Map<string, number>();
  sheets.sheets.flat().forEach((place, index) => {
    const name = flags[index] && job.recipe.designs?.find((each) => each.id === place.design)?.name;
    if (name) outside.set(name, (outside.get(name) ?? 0) + 1);
  });
  if (!shop) return null;
  const named = (list: { id: string; name: string }[], now: { id: string; name: string } | null | undefined) =>
    [...list, ...(now && !list.some((each) => each.id === now.id) ? [now] : [])].map((each) => ({ value: each.id, label: each.name }));
  const short = sheet.paper && (sheet.paper.kind === "roll" ? (sheets.roll_mm ?? 0) / 1000 : sheets.sheets.length) > (sheet.paper.left ?? 0);
  return (
    <>
      <Select label="Stock" value={stock} options={named(shop.stocks, sheet.paper)} onChange={take} />
      {short && <p className="px-3.5 pb-1 text-look">The shop has only {sheet.paper!.left} {sheet.paper!.kind === "roll" ? "m" : "sheets"} of it left.</p>}
      <Fold title="Machines and marks" told={marks ? SCHOOLS[marks.school ?? "four"] : undefined} open={moving}>
        <Select label="Printer" value={printer} options={named(shop.printers, sheet.printer)} onChange={(id) => keep("Printer", { printer: shop.printers.find((each) => each.id === id) })} />
        <Select label="Plotter" value={plotter} options={named(shop.plotters, sheet.plotter)} onChange={(id) => cutBy(shop.plotters.find((each) => each.id === id))} />
        {newer && newer.length > 0 && (
          <p className="px-3.5 pb-1 text-[12.5px] text-look">
            The shop&rsquo;s {newer.join(" and ")} changed since this job took it.{" "}
            <Button
              kind="quiet"
              onClick={() =>
                keep("Take the shop's numbers", {
                  ...(sheet.paper && { paper: shop.stocks.find((each) => each.id === stock) ?? sheet.paper }),
                  ...(sheet.printer && { printer: shop.printers.find((each) => each.id === printer) ?? sheet.printer }),
                  ...(sheet.plotter && { plotter: shop.plotters.find((each) => each.id === plotter) ?? sheet.plotter }),
                })
              }
            >
              Take its numbers
            </Button>
          </p>
        )}
        <Reading label="Marks" words>{marks ? `${SCHOOLS[marks.school ?? "four"]}, one ringed` : ""}</Reading>
        <Toggle label="Small marks" on={sheet.small_marks ?? false} onChange={(small_marks) => keep(small_marks ? "Small marks" : "Marks of full size", { small_marks })} />
        {sheets.worst_error_mm != null && <Reading label="Cut error to expect, at worst">{length(sheets.worst_error_mm, 3)}</Reading>}
        {outside.size > 0 && <Reading label="Reach outside the marks" words>{[...outside].map(([name, many]) => `${many} ${name}`).join(", ")}</Reading>}
        <p className="flex flex-wrap gap-1.5 px-3.5 pb-1">
          <Button kind={moving ? "act" : "plain"} aria-pressed={moving} onClick={onMove}>Move marks</Button>
          {(sheet.marks_at ?? []).length > 0 && <Button onClick={() => keep("Marks where they belong", { marks_at: [] })}>Put them back</Button>}
        </p>
        <p className="px-3.5 pb-1 text-[12.5px] text-quiet">
          Nothing that cuts leaves the dotted area: margins, grip and the marks&rsquo; clear zones are kept free.{" "}
          <Link to="/shop" className="text-act underline">Stocks and machines of the shop</Link>
        </p>
      </Fold>
    </>
  );
}
