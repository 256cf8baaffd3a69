import { useQuery, useQueryClient } from "@tanstack/react-query";

import { call, type CutSettings } from "../api/client";
import { PROCESSES } from "../api/constants";
import { CountField } from "../ui/CountField";
import { useNotice } from "../ui/Notice";

const FIELDS = [
  { name: "force_gf", label: "force, gf", min: 1, max: 600 },
  { name: "speed_cm_s", label: "speed, cm/s", min: 1, max: 60 },
  { name: "passes", label: "passes", min: 1, max: 4 },
] as const;

/** How each process is cut in a stock. */
export function CutSettingsTable({ stock }: { stock: string }) {
  const client = useQueryClient();
  const tell = useNotice();
  const key = ["cut-settings", stock];
  const { data } = useQuery({ queryKey: key, queryFn: () => call("get_cut_settings", { path: { stock } }) });
  if (!data) return null;
  const settings = data as CutSettings;
  const keep = (process: string, name: string, value: number) =>
    call("put_cut_settings", { path: { stock }, body: { [process]: { ...settings[process]!, [name]: value } } }).then((saved) => client.setQueryData(key, saved), tell);
  return (
    <section aria-label="Cut settings" className="border-t border-dashed border-rule px-1 py-2">
      <h3 className="px-2.5 text-[14px]">Cut settings</h3>
      <p className="px-2.5 pb-1 text-[12.5px] text-quiet">Where the plotter takes force and speed from. Test on a scrap first; blades cut, so keep hands off the moving carriage.</p>
      <div className="grid grid-cols-3">
        {PROCESSES.filter(({ name }) => settings[name]).flatMap(({ name, title }) =>
          FIELDS.map((field) => (
            <CountField key={`${name} ${field.name}`} label={`${title}, ${field.label}`} value={settings[name]![field.name] ?? 1} min={field.min} max={field.max} onKeep={(value) => void keep(name, field.name, value)} />
          )),
        )}
      </div>
    </section>
  );
}
