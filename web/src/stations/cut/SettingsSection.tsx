import { useQuery, useQueryClient } from "@tanstack/react-query";

import { call, type Print, type Schemas } from "../../api/client";
import { PROCESSES } from "../../api/constants";
import { useJob } from "../../job/job";
import { useVersioned } from "../../job/useVersioned";
import { Button } from "../../ui/Button";
import { CountField } from "../../ui/CountField";
import { Fold } from "../../ui/Fold";
import { useInTurn } from "../../ui/useInTurn";
import { useNotice } from "../../ui/Notice";

type Known = Schemas["KnownView"];

export const unitOf = (scale: Schemas["ForceScale"]) => (scale.unit === "gf" ? "gf" : `of ${scale.most}`);
const titleOf = (process: string) => PROCESSES.find((each) => each.name === process)?.title ?? process;
export const sureOf = (share: number) => `${Math.min(99, Math.round(share * 100))} % clean`;

/** The settings of a print, under film or not; without a print those of the job's bare stock. */
export function useSettings(print: Print | undefined) {
  const { job } = useJob();
  const key = ["settings", job.id, print?.id];
  const { data } = useQuery({ queryKey: key, queryFn: ({ signal }) => call("get_settings", { path: { job_id: job.id }, query: { print: print?.id }, signal }), retry: false });
  return { settings: data, key };
}

/** What each process of this sheet is cut with, where that comes from, and the way to a test cut. */
export function SettingsSection({ print, processes, onTest }: { print?: Print; processes: string[]; onTest: (process: string) => void }) {
  const tell = useNotice();
  const client = useQueryClient();
  const { settings, key } = useSettings(print);
  const inTurn = useInTurn();
  const versioned = useVersioned();
  if (!settings) return null;
  const mine = settings.settings.filter((each) => processes.includes(each.process));
  const untested = mine.filter((each) => each.source !== "test" || !each.is_own).length;
  const { stock_id: stock, plotter_id: plotter, blade, laminated } = settings;
  const keep = (known: Known, some: Partial<Schemas["CutSetting"]>) => {
    inTurn(() => {
      const now = client.getQueryData<Schemas["SettingsView"]>(key)?.settings.find((each) => each.process === known.process) ?? known;
      const body = { key: { stock, process: known.process, plotter, blade, laminated }, setting: { ...now.setting, ...some } };
      return versioned(body, now.version, (ifMatch) => call("put_entry", { body: body as Schemas["BookEntry"], ifMatch }))
        .catch(tell)
        .then(() => client.invalidateQueries({ queryKey: key }));
    });
  };
  return (
    <Fold title="Settings and test cut" told={untested ? `${untested} not tested` : "tested"} open={untested > 0}>
      <p className="px-3.5 pb-1 text-[12.5px] text-quiet">For {settings.stock}{laminated && " under film"} at {settings.plotter}{settings.blade && `, blade ${settings.blade}`}. Force is in the plotter&rsquo;s own {settings.force.unit === "gf" ? "grams" : "steps"}.</p>
      {mine.map((known) => (
        <section key={known.process} aria-label={`Setting of ${titleOf(known.process)}`} className="mx-2.5 mb-2 rounded-md border border-rule bg-paper py-1.5">
          <p className="flex items-baseline justify-between gap-2 px-2.5">
            <b className="shrink-0">{titleOf(known.process)}</b>
            <span className="text-[12.5px] text-quiet">pen {known.pen} · {known.setting.speed_cm_s} cm/s · {known.setting.passes === 1 ? "one pass" : `${known.setting.passes} passes`}</span>
          </p>
          <p className="px-2.5 text-[12.5px] text-quiet">{known.why.charAt(0).toUpperCase() + known.why.slice(1)}{known.sure !== null && `, ${sureOf(known.sure)}`}.</p>
          <CountField label={`Force ${unitOf(settings.force)}`} value={known.setting.force} min={settings.force.least} max={settings.force.most} onKeep={(force) => keep(known, { force })} />
          <CountField label="Passes" value={known.setting.passes} min={1} max={4} onKeep={(passes) => keep(known, { passes })} />
          <p className="px-2.5 pt-1"><Button kind={known.source === "test" && known.is_own ? "plain" : "act"} onClick={() => onTest(known.process)}>{known.test ? "Test cut …" : "Test cut"}</Button></p>
        </section>
      ))}
    </Fold>
  );
}
