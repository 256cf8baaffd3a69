import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { call, type Schemas, sendFile } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { FileButton } from "../../ui/FileButton";
import { Fold } from "../../ui/Fold";
import { LengthField } from "../../ui/LengthField";
import { useNotice } from "../../ui/Notice";
import { Reading } from "../../ui/Reading";
import { useUnits } from "../../ui/units";

type Axis = Schemas["AxisView"];

const named = ({ from_name, to_name }: Schemas["SpanView"]) => `${from_name.charAt(0).toUpperCase()}${from_name.slice(1)} to ${to_name}`;
const pct = (share: number) => `${((share - 1) * 100).toFixed(2)} %`;
const told = ({ error_pct: error, uncertainty_pct: unsure, corrected }: Axis) =>
  corrected
    ? `${Math.abs(error).toFixed(2)} % ${error < 0 ? "short" : "long"}, ± ${unsure.toFixed(2)} %: corrected`
    : `within ruler accuracy, ± ${unsure.toFixed(2)} %: left as it is`;

/** Whether the printer prints at true size: two distances on a printed sheet, read with a ruler. */
export function ScaleSection() {
  const { job } = useJob();
  const { length } = useUnits();
  const tell = useNotice();
  const client = useQueryClient();
  const sheet = job.recipe.sheet;
  const key = ["scale", job.id, job.revision, sheet?.printer?.id, sheet?.paper?.id];
  const { data } = useQuery({ queryKey: key, queryFn: ({ signal }) => call("get_scale", { path: { job_id: job.id }, signal }), retry: false });
  const [read, setRead] = useState<[number, number] | null>(null);
  const [answer, setAnswer] = useState<Schemas["ScaleAnswer"] | null>(null);
  if (!data) return null;
  const [across, along] = read ?? [data.across.mm, data.along.mm];
  const [x, y] = data.scale;
  const plain = x === 1 && y === 1;
  const check = () =>
    void call("post_scale", { path: { job_id: job.id }, body: { across_mm: across, along_mm: along, reads_to_mm: 0.25, was: data.scale } })
      .then((now) => {
        client.setQueryData(key, now.now);
        setAnswer(now);
        setRead(null);
      })
      .catch(tell);
  const scan = (file: File) =>
    sendFile("post_scale_scan", { job_id: job.id }, file)
      .then((seen) => setRead([Number(seen.across_mm.toFixed(2)), Number(seen.along_mm.toFixed(2))]))
      .catch(tell);
  const reset = () =>
    void call("delete_scale", { path: { job_id: job.id } })
      .then((now) => {
        client.setQueryData(key, now);
        setAnswer(null);
      })
      .catch(tell);
  return (
    <Fold title="Scale check" told={data.checked_at ? (plain ? "as drawn" : `${pct(x)} across, ${pct(y)} along`) : "not measured"}>
      <p className="px-3.5 text-[12.5px] text-quiet">
        Measure a sheet printed as it is set now, from the middle of one mark to the middle of the other, to a quarter of a millimetre; or scan it on a flatbed at 300 ppi.
      </p>
      <LengthField label={named(data.across)} mm={across} min={1} max={40000} from={data.across.mm - 4} reach={data.across.mm + 4} step={0.25} onKeep={(mm) => setRead([mm, along])} />
      <LengthField label={named(data.along)} mm={along} min={1} max={40000} from={data.along.mm - 4} reach={data.along.mm + 4} step={0.25} onKeep={(mm) => setRead([across, mm])} />
      <p className="flex flex-wrap gap-1.5 px-3.5 py-1">
        <Button kind={read ? "act" : "plain"} onClick={check}>I measured this</Button>
        <FileButton label="Scan of a printed sheet" accept="image/*" onFile={(file) => void scan(file)}>Read a scan …</FileButton>
        {!plain && <Button kind="quiet" onClick={reset}>As drawn again</Button>}
      </p>
      {answer && (
        <div role="status">
          <Reading label="Across" words>{told(answer.across)}</Reading>
          <Reading label="Along" words>{told(answer.along)}</Reading>
        </div>
      )}
      <p className="px-3.5 pb-1 text-[12.5px] text-quiet">
        As drawn: {length(data.across.mm)} across, {length(data.along.mm)} along. Cut files stay in true millimetres.
      </p>
    </Fold>
  );
}
