import { useQuery } from "@tanstack/react-query";

import { call } from "../../api/client";
import { useJob } from "../../job/job";
import { count } from "../../job/stubs";
import { Button } from "../../ui/Button";
import { Reading } from "../../ui/Reading";
import { useUnits } from "../../ui/units";

const share = (lost: number) => (lost < 0.0005 ? "none" : lost < 0.1 ? `${(lost * 100).toFixed(1)} %` : `${Math.round(lost * 100)} %`);

/** The least border that is safe by what was measured, and what the one chosen costs. */
export function SafeBorder({ design, border, onTake }: { design: string; border: number; onTake: (mm: number) => void }) {
  const { job } = useJob();
  const { length } = useUnits();
  const plotter = job.recipe.sheet?.plotter?.id;
  const { data } = useQuery({
    queryKey: ["safe border", job.id, job.revision, plotter, job.recipe.sheet?.paper?.id, job.runs[0]?.id, job.runs[0]?.state],
    queryFn: ({ signal }) => call("get_safe_border", { path: { job_id: job.id }, signal }),
    placeholderData: (before) => before,
  });
  if (!data || border < 0) return null;
  const safe = Math.ceil(data.border_mm * 20) / 20;
  const of = { here: "at this plotter on this stock", plotter: "at this plotter, other stocks with it", shop: "at all plotters of the shop" }[data.group];
  const lost = data.lost[design];
  return (
    <>
      <Reading label="Safe border">
        {length(safe)}
        {Math.abs(safe - border) > 0.01 && (
          <>
            {" "}
            <Button kind="quiet" onClick={() => onTake(safe)}>Use it</Button>
          </>
        )}
      </Reading>
      {lost != null && <Reading label={`Lost at ${length(border)}`}>{share(lost)}</Reading>}
      <p className="px-3.5 pb-1 text-[12.5px] text-quiet">
        By the log, 95 of 100 stickers stay whole (95 % sure): {count(data.stickers, "sticker")} on {count(data.sheets, "sheet")} {of}.
      </p>
    </>
  );
}
