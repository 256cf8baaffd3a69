import { useQuery, useQueryClient } from "@tanstack/react-query";

import { call, type Run, type Schemas, type SheetRecipe, type Sheets } from "../api/client";
import { useJob } from "../job/job";
import { Button } from "../ui/Button";
import { useNotice } from "../ui/Notice";
import { Section } from "../ui/Reading";
import { dayOf } from "../ui/when";

type Scrap = Schemas["ScrapView"];

/** A sheet of which a part is left, small: what is free is white. */
export function ScrapPicture({ scrap }: { scrap: Scrap }) {
  return (
    <svg viewBox={`0 0 ${scrap.width_mm} ${scrap.height_mm}`} className="h-14 w-auto shrink-0 border border-rule" role="img" aria-label={`${scrap.free_cm2.toFixed(0)} cm² free`}>
      <rect width={scrap.width_mm} height={scrap.height_mm} fill="#cfd8d4" />
      <path d={scrap.free} fill="#fff" fillRule="evenodd" />
    </svg>
  );
}

/** After a cut: what is left of its sheet is kept by one click, and small jobs are offered it. */
export function LeftOver({ run }: { run: Run }) {
  const client = useQueryClient();
  const tell = useNotice();
  const key = ["left", run.print_id];
  const { data } = useQuery({ queryKey: key, enabled: run.state === "done", queryFn: () => call("get_left", { path: { print_id: run.print_id } }) });
  if (run.state !== "done" || !data || (data.free_cm2 <= 0 && data.state === "free")) return null;
  const then = () => {
    void client.invalidateQueries({ queryKey: key });
    void client.invalidateQueries({ queryKey: ["scraps"] });
  };
  const cm2 = data.free_cm2.toFixed(0);
  return (
    <Section title="The rest of this sheet">
      {data.state === "free" ? (
        <>
          <p className="px-3.5 pb-1 text-quiet">{cm2} cm² are uncut. Keep the leftover, and small jobs that fit are offered it.</p>
          <p className="px-3.5 pb-1">
            <Button onClick={() => void call("post_scrap", { path: { print_id: run.print_id } }).then(then, tell)}>Keep the leftover</Button>
          </p>
        </>
      ) : data.state === "kept" ? (
        <p className="flex flex-wrap items-center gap-2 px-3.5 pb-1">
          <span className="min-w-0 grow">{cm2} cm² are kept. Write “{run.job}” on its back.</span>
          <Button kind="quiet" onClick={() => void call("delete_scrap", { path: { print_id: run.print_id } }).then(then, tell)}>Throw it away</Button>
        </p>
      ) : (
        <p className="px-3.5 pb-1 text-quiet">Its leftover is used or thrown away.</p>
      )}
    </Section>
  );
}

/** At Sheet: what is left of an earlier sheet that all of this job fits on; or the one that it stands on. */
export function ScrapOffer({ sheets, keep }: { sheets: Sheets; keep: (label: string, changes: Partial<SheetRecipe>) => void }) {
  const { job, afterChanges } = useJob();
  const client = useQueryClient();
  const tell = useNotice();
  const sheet = job.recipe.sheet!;
  const small = !sheet.fill && !sheet.scrap && !sheet.card && sheet.until_mm == null && sheets.roll_mm == null && sheets.sheets.length === 1;
  const { data } = useQuery({
    queryKey: ["scraps", job.id, job.revision],
    enabled: small,
    staleTime: 30_000,
    queryFn: ({ signal }) => call("get_job_scraps", { signal, path: { job_id: job.id } }),
  });
  if (sheet.scrap)
    return (
      <div className="px-3.5 pb-1.5">
        <p>This job uses a leftover sheet, grey where it was cut before. Load it the same way round. Take off what is loose first: a lifted edge or a hole can jam a printer, so ask its manual whether it takes such a sheet.</p>
        <p className="pt-1"><Button kind="quiet" onClick={() => keep("On a new sheet", { scrap: null, marks_at: [] })}>Take a new sheet</Button></p>
      </div>
    );
  if (!small || !data?.length) return null;
  const take = (scrap: Scrap) =>
    void afterChanges(() => call("post_job_scrap", { path: { job_id: job.id, print_id: scrap.of_print } }))
      .catch(tell)
      .then(() => client.invalidateQueries({ queryKey: ["scraps"] }));
  return (
    <ul aria-label="Leftover sheets" className="px-3.5 pb-1">
      {data.map((scrap) => (
        <li key={scrap.of_print} className="flex items-center gap-2.5 py-1">
          <ScrapPicture scrap={scrap} />
          <span className="min-w-0 grow text-[12.5px]">It fits on the leftover of “{scrap.title}”, {dayOf(scrap.at)}.</span>
          <Button className="shrink-0 whitespace-nowrap" aria-label={`Use what is left of ${scrap.title}`} onClick={() => take(scrap)}>Use it</Button>
        </li>
      ))}
    </ul>
  );
}

/** What was cut out of a sheet before, grey on the table. */
export function UsedBefore({ rings }: { rings: readonly (readonly (readonly number[])[])[] }) {
  return <path d={rings.map((ring) => `M${ring.map(([x, y]) => `${x},${y}`).join(" ")}Z`).join("")} fill="#9fb0aa" fillOpacity=".45" className="pointer-events-none" />;
}
