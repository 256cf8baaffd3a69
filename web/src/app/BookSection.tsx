import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";

import { call, type Schemas, type Shop, urlOf } from "../api/client";
import { PROCESSES } from "../api/constants";
import { FileButton } from "../ui/FileButton";
import { useNotice } from "../ui/Notice";

type Entry = Schemas["BookEntry"];

const KEY = ["book"];
const SOURCES: Record<Entry["source"], string> = { test: "test cut", hand: "by hand", shop: "another shop", example: "example" };

/** The settings book: what is known of cutting, and where it comes from. */
export function BookSection({ shop }: { shop: Shop }) {
  const client = useQueryClient();
  const tell = useNotice();
  const { data: entries } = useQuery({ queryKey: KEY, queryFn: ({ signal }) => call("get_book", { signal }) });
  const put = (asked: Promise<Entry[]>) => void asked.then((now) => client.setQueryData(KEY, now)).catch(tell);
  const take = async (chosen: File) => {
    let passed: Schemas["PassedOn"];
    try {
      passed = JSON.parse(await chosen.text()) as Schemas["PassedOn"];
    } catch {
      tell(new Error("This file is not a settings book. Choose the JSON file that another shop exported."));
      return;
    }
    put(call("post_passed_on", { body: passed }));
  };
  const nameOf = (list: { id: string; name: string }[], id: string, none: string) => list.find((each) => each.id === id)?.name ?? (id || none);
  return (
    <section aria-label="Settings book" className="pb-5">
      <div className="flex items-baseline justify-between gap-3 pb-1.5">
        <h2 className="text-[16px]">Settings book</h2>
        <span className="grow text-[12.5px] text-quiet">Cut settings by stock and plotter. Test settings from elsewhere on a scrap first.</span>
        <a href={urlOf("get_passed_on")} download className="rounded-md border border-rule bg-paper px-3 py-1.5 hover:border-act">Export</a>
        <FileButton label="Settings book to import" accept=".json,application/json" onFile={(chosen) => void take(chosen)}>Import …</FileButton>
      </div>
      {entries?.length === 0 && <p className="text-quiet">No settings yet. A test cut at the Cut station adds the first.</p>}
      {entries && entries.length > 0 && (
        <div className="max-h-72 overflow-y-auto rounded-lg border border-rule bg-paper">
          <table className="w-full text-[13px]" aria-label="Settings">
            <thead className="sticky top-0 bg-paper">
              <tr className="text-left text-quiet">
                {["Stock", "Process", "Plotter", "Blade"].map((head) => <th key={head} className="px-2.5 py-1 font-normal">{head}</th>)}
                {["Force", "cm/s", "Passes"].map((head) => <th key={head} className="px-2 py-1 text-right font-normal">{head}</th>)}
                <th className="px-2.5 py-1 font-normal">From</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {entries.map((entry) => (
                <tr key={JSON.stringify(entry.key)} className="border-t border-dashed border-rule">
                  <td className="px-2.5 py-1">{nameOf(shop.stocks, entry.key.stock, "any")}</td>
                  <td className="px-2.5">{PROCESSES.find((each) => each.name === entry.key.process)?.title}</td>
                  <td className="px-2.5">{nameOf(shop.plotters, entry.key.plotter, "any")}</td>
                  <td className="px-2.5">{entry.key.blade || "any"}</td>
                  <td className="figure px-2 text-right">{entry.setting.force}</td>
                  <td className="figure px-2 text-right">{entry.setting.speed_cm_s}</td>
                  <td className="figure px-2 text-right">{entry.setting.passes}</td>
                  <td className="px-2.5" title={entry.note}>{SOURCES[entry.source]}{entry.sure != null && `, ${Math.min(99, Math.round(entry.sure * 100))} %`}</td>
                  <td className="px-1.5 text-right">
                    <button type="button" aria-label={`Forget ${entry.key.process} of ${nameOf(shop.stocks, entry.key.stock, "any")}`} className="rounded p-1 text-quiet hover:bg-stop-pale hover:text-stop" onClick={() => put(call("post_forget", { body: entry.key }))}>
                      <Trash2 size={14} />
                    </button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}
