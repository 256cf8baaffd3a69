import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Download } from "lucide-react";
import { useState } from "react";

import { call, urlOf } from "../../api/client";
import { PROCESSES } from "../../api/constants";
import { useJob } from "../../job/job";
import { count } from "../../job/stubs";
import { SHOP_KEY, useShop } from "../../job/useShop";
import { Fold } from "../../ui/Fold";
import { LengthField } from "../../ui/LengthField";
import { useNotice } from "../../ui/Notice";
import { Select } from "../../ui/Select";
import { TextField } from "../../ui/TextField";
import { useUnits } from "../../ui/units";

type Cmyk = [number, number, number, number];
/** What stands in for one plate after the other, so that they are told apart where no plates are shown. */
const COLOURS: Cmyk[] = [[0, 1, 0, 0], [1, 0, 0, 0], [0, 0, 1, 0], [0, 0.5, 1, 0], [1, 0, 1, 0], [0.5, 1, 0, 0]];
const NAMES = ["magenta", "cyan", "yellow", "orange", "green", "violet"];
/** Areas that a RIP prints beside the colours, by how much each usually spreads. */
const AREAS = [
  { kind: "white", title: "White under the art", spread: -0.1, cmyk: [0.3, 0, 0.1, 0] as Cmyk },
  { kind: "varnish", title: "Varnish over the stickers", spread: 0, cmyk: [0, 0, 0.3, 0] as Cmyk },
];
const fresh = (process: string) => ({ name: "", cmyk: COLOURS[PROCESSES.findIndex((each) => each.name === process) % COLOURS.length]!, width_mm: 0.1, spread_mm: 0 });

/** Cut lines as named plates for a RIP that cuts, and what the file really holds. */
export function PlatesSection({ number }: { number: number }) {
  const { job } = useJob();
  const { area, length } = useUnits();
  const shop = useShop();
  const tell = useNotice();
  const client = useQueryClient();
  const path = { job_id: job.id, number: number + 1 };
  const plates = shop?.plates ?? {};
  // Read for those who look, or have plates: a sheet that is being undone has no lines to be read.
  const [isOpen, setOpen] = useState(false);
  const { data: totals } = useQuery({
    enabled: isOpen || Object.keys(plates).length > 0,
    queryKey: ["line totals", job.id, job.revision, number],
    queryFn: ({ signal }) => call("get_line_totals", { path, signal }),
    staleTime: Infinity,
  });
  const named = [...(totals ?? []).map((each) => each.process), ...AREAS.map((each) => each.kind)].filter((each) => plates[each]);
  const { data: found } = useQuery({
    queryKey: ["plates", job.id, job.revision, number, plates],
    enabled: named.length > 0,
    queryFn: ({ signal }) => call("get_plates", { path, signal }),
    staleTime: Infinity,
  });
  const put = (process: string, changes: { name?: string; cmyk?: Cmyk; width_mm?: number; spread_mm?: number }, begun = fresh(process)) =>
    void call("put_plate", { path: { process }, body: { ...(plates[process] ?? begun), ...changes } })
      .then((now) => client.setQueryData(SHOP_KEY, now))
      .catch(tell);
  return (
    <Fold title="Plates for a RIP that cuts" onOpen={setOpen} told={named.length ? named.map((each) => plates[each]!.name).join(", ") : "none named"}>
      <p className="px-3.5 text-[12.5px] text-quiet">A RIP cuts a line, and prints white or varnish, by the exact name of its plate. Names are saved for all jobs. A plate without a name stays out of the file.</p>
      {totals?.map(({ process, count: lines }) => (
        <div key={process}>
        <TextField
          label={`${PROCESSES.find((each) => each.name === process)?.title ?? process}, ${count(lines, "line")}`}
          value={plates[process]?.name ?? ""}
          hint="no plate"
          max={60}
          onKeep={(name) => put(process, { name })}
        />
        {plates[process] && (
          <>
            <Select
              label="Preview colour"
              value={String(COLOURS.findIndex((each) => each.join() === plates[process]!.cmyk?.join()))}
              options={[...NAMES.map((name, n) => ({ value: String(n), label: name })), ...(COLOURS.some((each) => each.join() === plates[process]!.cmyk?.join()) ? [] : [{ value: "-1", label: "its own mixture" }])]}
              onChange={(n) => COLOURS[Number(n)] && put(process, { cmyk: COLOURS[Number(n)] })}
            />
            <LengthField label="Width of its lines" mm={plates[process]!.width_mm ?? 0.1} min={0.01} max={5} reach={1} step={0.01} onKeep={(width_mm) => put(process, { width_mm })} />
          </>
        )}
        </div>
      ))}
      {AREAS.map(({ kind, title, spread, cmyk }) => (
        <div key={kind}>
          <TextField label={title} value={plates[kind]?.name ?? ""} hint="no plate" max={60} onKeep={(name) => put(kind, { name }, { name: "", cmyk, width_mm: 0.1, spread_mm: spread })} />
          {plates[kind] && (
            <LengthField label={kind === "white" ? "Spreads past the art (below 0: stays inside)" : "Spreads past the stickers"} mm={plates[kind]!.spread_mm ?? spread} min={-5} max={5} reach={1} step={0.05} onKeep={(spread_mm) => put(kind, { spread_mm })} />
          )}
        </div>
      ))}
      {named.length > 0 && (
        <div className="px-3.5 py-2">
          <a href={urlOf("get_plates_file", path)} download className="inline-flex items-center gap-1.5 rounded-md border border-rule bg-paper px-2.5 py-1 text-[13px] hover:border-act">
            <Download size={14} aria-hidden /> Plates PDF
          </a>
          {found && (
            <table className="mt-2 w-full text-[13px]" aria-label="Plates that the file holds">
              <thead><tr className="text-left text-quiet"><th className="font-normal">The file holds</th><th className="text-right font-normal">objects</th><th className="text-right font-normal">length or area</th></tr></thead>
              <tbody>
                {found.map((plate) => (
                  <tr key={plate.name}>
                    <td className="max-w-0 truncate" title={plate.name}>{plate.name}</td>
                    <td className="text-right font-mono">{plate.objects}</td>
                    <td className="text-right font-mono">{plate.area_mm2 > 0 ? area(plate.area_mm2) : length(plate.length_mm, 0)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </div>
      )}
    </Fold>
  );
}
