import { useQuery, useQueryClient } from "@tanstack/react-query";

import { call, type Schemas } from "../../api/client";
import { useJob } from "../../job/job";
import { count } from "../../job/stubs";
import { Button } from "../../ui/Button";
import { Fold } from "../../ui/Fold";
import { useNotice } from "../../ui/Notice";
import { Reading } from "../../ui/Reading";
import { useUnits } from "../../ui/units";

type Calibration = Schemas["CalibrationView"];
type Component = Schemas["ComponentView"];

const NAMES: Record<Component["name"], string> = {
  shift_x: "Shift across",
  shift_y: "Shift along",
  turn: "Turn",
  scale_x: "Scale across",
  scale_y: "Scale along",
  skew: "Skew",
};
const isShift = (name: Component["name"]) => name.startsWith("shift");

/** What the log says of a plotter: which part of its error is real, how it scatters, and what helps. */
export function CalibrationSection({ plotter, onPage }: { plotter: string; onPage: (name: string) => void }) {
  const { job, refresh } = useJob();
  const tell = useNotice();
  const client = useQueryClient();
  const { length, figure, unit } = useUnits();
  const key = ["calibration", plotter, job.runs[0]?.id, job.runs[0]?.state];
  const { data } = useQuery({ queryKey: key, queryFn: ({ signal }) => call("get_calibration", { path: { plotter }, signal }), retry: false });
  if (!data) return null;
  const put = (asked: Promise<Calibration>) =>
    void asked.then((now) => client.setQueryData(key, now)).then(refresh).catch(tell);
  const real = data.components.filter((each) => each.is_real);
  const isTrued = Object.values(data.trueing).some((each) => each !== 0);
  const missing = data.least_sheets - data.sheets;
  // What is taken out already is real still; only what differs from it is new.
  const isNew = data.proposed != null && Object.entries(data.proposed).some(([name, value]) => Math.abs(value - (data.trueing[name as Component["name"]] ?? 0)) > 0.1 * Math.abs(value));
  const told = missing > 0 ? `${count(missing, "sheet")} more` : real.length ? (isNew ? `${real.map((each) => NAMES[each.name].toLowerCase()).join(", ")}` : "trued") : data.is_scattered || data.is_uneven ? "scatters" : "no systematic error";
  const size = (each: Component, value: number) => (isShift(each.name) ? `${figure(value, 3)} ${unit}` : each.name.startsWith("scale") ? `${(value * 100).toFixed(3)} %` : `${((value * 180) / Math.PI).toFixed(3)}°`);
  const bare = (each: Component, value: number) => size(each, value).replace(/ ?[^\d]+$/, "");
  return (
    <Fold title={`How ${data.plotter} cuts`} told={told} open={isNew}>
      {missing > 0 ? (
        <p className="px-3.5 pb-1 text-quiet">
          {data.sheets ? `${count(data.sheets, "sheet")} measured. ` : ""}After {count(missing, "more measured sheet")} the log shows its systematic error, and what to do.
        </p>
      ) : (
        <>
          <table className="mx-3.5 w-[calc(100%-1.75rem)] text-[12px]">
            <caption className="pb-1 text-left text-[12.5px] text-quiet">
              {count(data.stickers, "sticker")} on {count(data.sheets, "sheet")}{data.loose > 0 && `, ${data.loose} that came loose left out`}
            </caption>
            <thead className="text-left text-quiet">
              <tr><th className="font-normal">part of its error</th><th className="text-right font-normal">size, 95 % sure</th></tr>
            </thead>
            <tbody>
              {data.components.map((each) => (
                <tr key={each.name} className={each.is_real ? "text-stop" : "text-quiet"}>
                  <td >{NAMES[each.name]}{each.is_real && <b className="font-semibold"> real</b>}</td>
                  <td className="figure text-right whitespace-nowrap" title={`Moves a sticker by up to ${length(each.largest_mm)}`}>{bare(each, each.value)} ± {size(each, 2 * each.error)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <Reading label="Scatter on a sheet">{length(data.within_mm ?? 0, 3)}</Reading>
          <Reading label="From sheet to sheet">{length(data.between_mm ?? 0, 3)}</Reading>
          {data.is_scattered && <p className="px-3.5 pb-1 text-look">Stickers on one sheet scatter more than usual. Check the mat, the rollers just outside the paper, the belts and the blade.</p>}
          {data.is_uneven && <p className="px-3.5 pb-1 text-look">Sheets register differently each time. Clean the sensor, keep tape off the marks, and load against the guide.</p>}
          {!real.length && !data.is_scattered && !data.is_uneven && <p className="px-3.5 pb-1">No systematic error found. The rest is random scatter.</p>}
          {real.length > 0 && isNew && (
            <p className="px-3.5 pb-1">
              This error is systematic, so every cut can be corrected for it.
            </p>
          )}
          <p className="flex flex-wrap gap-1.5 px-3.5 py-1">
            {isNew && <Button kind="act" onClick={() => put(call("post_trueing", { path: { plotter } }))}>Apply the correction</Button>}
            {isTrued && <Button onClick={() => put(call("delete_trueing", { path: { plotter } }))}>Remove the correction</Button>}
          </p>
          {isTrued && !isNew && <p role="status" className="px-3.5 pb-1 text-good">Cuts are corrected for {real.map((each) => NAMES[each.name].toLowerCase()).join(", ") || "what was measured"}.</p>}
        </>
      )}
      <p className="px-3.5 py-1">
        <Button onClick={() => onPage(data.plotter)}>Calibrate by one page …</Button>
      </p>
    </Fold>
  );
}
