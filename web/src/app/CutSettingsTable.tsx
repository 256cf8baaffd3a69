import { useQuery, useQueryClient } from "@tanstack/react-query";

import { call, type CutSettings } from "../api/client";
import { PROCESSES } from "../api/constants";
import { useNotice } from "../ui/Notice";
import { useTyped } from "../ui/useTyped";

const FIELDS = [
  { name: "force", label: "force", min: 0.1, max: 2000 },
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
      <table className="mx-2.5 text-[13px]">
        <thead>
          <tr className="text-left text-quiet">
            <th className="pr-6 font-normal">Process</th>
            {FIELDS.map((field) => <th key={field.name} className="pr-4 font-normal">{field.label}</th>)}
          </tr>
        </thead>
        <tbody>
          {PROCESSES.filter(({ name }) => settings[name]).map(({ name, title }) => (
            <tr key={name}>
              <th scope="row" className="pr-6 text-left font-normal">{title}</th>
              {FIELDS.map((field) => (
                <td key={field.name} className="py-0.5 pr-4">
                  <NumberCell label={`${title}, ${field.label}`} value={settings[name]![field.name] ?? 1} min={field.min} max={field.max} onKeep={(value) => void keep(name, field.name, value)} />
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** A number in a table, kept when it is left; what is none, or out of range, goes back to what it was. */
function NumberCell({ label, value, min, max, onKeep }: { label: string; value: number; min: number; max: number; onKeep: (value: number) => void }) {
  const { input, restore } = useTyped(String(value), (text) => {
    const typed = Number(text.replace(",", "."));
    if (Number.isFinite(typed) && typed >= min && typed <= max && typed !== value) onKeep(typed);
    else restore();
  });
  return (
    <input
      aria-label={label}
      inputMode="decimal"
      {...input}
      className="figure w-20 rounded border border-rule bg-paper px-2 py-0.5 text-right focus:border-act"
    />
  );
}
