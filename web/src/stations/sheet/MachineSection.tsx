import { Link } from "react-router";

import { PATTERNS } from "../../api/constants";
import type { Plotter, Printer, SheetRecipe, Sheets, Stock } from "../../api/client";
import { useJob } from "../../job/job";
import { machineName, stockId, useShop } from "../../job/useShop";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { Fold } from "../../ui/Fold";
import { Reading, Row } from "../../ui/Reading";
import { Select } from "../../ui/Select";
import { Toggle } from "../../ui/Toggle";
import { useUnits } from "../../ui/units";
import { numbersDiffer } from "./numbers";

const QUALITIES = [{ value: "draft" as const, label: "Draft" }, { value: "standard" as const, label: "Standard" }, { value: "best" as const, label: "Best" }];
const KINDS = [
  { value: "printed" as const, label: "Print and cut", title: "Printed, then cut by its marks" },
  { value: "bare" as const, label: "Cut only", title: "Bare stock, film or card, with nothing printed on it" },
];
export const patternTitle = (name: string | undefined) => PATTERNS.find((each) => each.name === (name ?? "four"))?.title ?? name ?? "";

type Named = { id: string; name: string; address?: string; simulated?: boolean };
const named = (list: Named[], now: { id: string; name: string } | null | undefined) =>
  ([...list, ...(now && !list.some((each) => each.id === now.id) ? [now] : [])] as Named[]).map((each) => ({ value: each.id, label: each.simulated === undefined ? each.name : machineName(each) }));

/** Whether the stock is printed, or only cut. */
export function KindChoice({ keep }: Pick<Props, "keep">) {
  const bare = useJob().job.recipe.sheet?.cut_only ?? false;
  return (
    <>
      <Row>
        <span className="text-quiet">This job is</span>
        <Choice label="This job is" value={bare ? "bare" : "printed"} options={KINDS} onChange={(kind) => keep(KINDS.find((each) => each.value === kind)!.label, { cut_only: kind === "bare" })} />
      </Row>
      {bare && <p className="px-3.5 pb-1 text-[12.5px] text-quiet">Bare stock is cut from the corner that it is laid into. It needs no marks and no printer margins.</p>}
    </>
  );
}

/** Which stock of the shop, and whether enough of it is left. */
export function StockChoice({ sheets }: { sheets: Sheets }) {
  const { job, equip } = useJob();
  const shop = useShop();
  const sheet = job.recipe.sheet!;
  if (!shop) return null;
  const record = shop.stocks.find((each) => each.id === stockId(sheet));
  const needed = record?.kind === "roll" ? (sheets.roll_mm ?? 0) / 1000 : sheets.sheets.length;
  return (
    <>
      <Select label="Stock" value={stockId(sheet)} options={named(shop.stocks, sheet.paper)} onChange={(stock) => equip({ stock })} />
      {record && needed > (record.left ?? 0) && (
        <p className="px-3.5 pb-1 text-look">The shop has only {record.left} {record.kind === "roll" ? "m" : "sheets"} of it left.</p>
      )}
    </>
  );
}

interface Props {
  sheets: Sheets;
  keep: (label: string, changes: Partial<SheetRecipe>) => void;
  moving: boolean;
  onMove: () => void;
}

/** Printed and cut by what, and where the marks stand. */
export function MachineSection({ sheets, keep, moving, onMove }: Props) {
  const { job, equip } = useJob();
  const { length } = useUnits();
  const shop = useShop();
  const sheet = job.recipe.sheet!;
  if (!shop) return null;
  const printer = sheet.printer?.id ?? shop.printers[0]?.id ?? "";
  const plotter = sheet.plotter?.id ?? shop.plotters[0]?.id ?? "";
  const marks = (sheet.plotter ?? shop.plotters.find((each) => each.id === plotter))?.marks;
  const newer = [
    numbersDiffer(sheet.paper, shop.stocks.find((each: Stock) => each.id === sheet.paper?.id)) && "stock",
    numbersDiffer(sheet.printer, shop.printers.find((each: Printer) => each.id === printer)) && "printer",
    numbersDiffer(sheet.plotter, shop.plotters.find((each: Plotter) => each.id === plotter)) && "plotter",
  ].filter(Boolean) as string[];
  const bare = sheet.cut_only ?? false;
  const outside = new Map<string, number>();
  for (const place of sheets.sheets.flatMap((each) => each.placements)) {
    const name = place.outside && job.recipe.designs?.find((each) => each.id === place.design)?.name;
    if (name) outside.set(name, (outside.get(name) ?? 0) + 1);
  }
  return (
    <Fold title="Machines and marks" told={`${sheet.plotter?.name ?? shop.plotters.find((each) => each.id === plotter)?.name ?? ""}, ${bare ? "cut only" : patternTitle(marks?.pattern)}`} open={moving}>
      {!bare && (
        <>
          <Select label="Printer" value={printer} options={named(shop.printers, sheet.printer)} onChange={(id) => equip({ printer: id })} />
          <Row>
            <span className="text-quiet" title="Tone and profile depend on it">Print quality</span>
            <Choice label="Print quality" value={sheet.quality ?? "standard"} options={QUALITIES} onChange={(quality) => keep(`Print quality: ${quality}`, { quality })} />
          </Row>
        </>
      )}
      <Select label="Plotter" value={plotter} options={named(shop.plotters, sheet.plotter)} onChange={(id) => equip({ plotter: id })} />
      {newer.length > 0 && (
        <p className="px-3.5 pb-1 text-[12.5px] text-look">
          The shop&rsquo;s {newer.join(" and ")} has changed since this job was made.{" "}
          <Button kind="quiet" onClick={() => equip({ take_numbers: true })}>Update from the shop's record</Button>
        </p>
      )}
      {!bare && <Reading label="Marks" words>{marks ? `${patternTitle(marks.pattern)}${sheets.marks.length ? ", one ringed" : ""}` : ""}</Reading>}
      {sheets.marks.length > 0 && <Toggle label="Small marks" on={sheet.small_marks ?? false} onChange={(small_marks) => keep(small_marks ? "Small marks" : "Marks of full size", { small_marks })} />}
      {sheets.worst_error_mm != null && <Reading label="Expected cut error, worst case">{length(sheets.worst_error_mm, 3)}</Reading>}
      {sheets.worst_error_mm != null && sheets.worst_lost != null && (
        <p className="px-3.5 pb-1 text-[12.5px] text-quiet">
          {sheets.error_sheets ? `By ${sheets.error_sheets} sheets of its log. ` : "Typical for this kind of plotter; its own log is still short. "}
          The worst sticker loses its border {sheets.worst_lost < 0.0005 ? "practically never" : `in ${(sheets.worst_lost * 100).toFixed(1)} of 100 cuts`}.
        </p>
      )}
      {outside.size > 0 && <Reading label="Reach outside the marks" words>{[...outside].map(([name, many]) => `${many} ${name}`).join(", ")}</Reading>}
      <p className="flex flex-wrap gap-1.5 px-3.5 pb-1">
        {sheets.marks.length > 0 && <Button kind={moving ? "act" : "plain"} aria-pressed={moving} onClick={onMove}>Move marks</Button>}
        {(sheet.marks_at ?? []).length > 0 && <Button onClick={() => keep("Reset mark positions", { marks_at: [] })}>Reset mark positions</Button>}
      </p>
      <p className="px-3.5 pb-1 text-[12.5px] text-quiet">
        {bare ? "All cuts stay inside the dotted area. The plotter's grip is kept free." : "All cuts stay inside the dotted area. Margins, grip and the marks' clear zones are kept free."}{" "}
        <Link to="/shop" className="text-act underline">Stocks and machines of the shop</Link>
      </p>
    </Fold>
  );
}
