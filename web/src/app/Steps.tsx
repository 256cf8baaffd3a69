import { useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";

import { call } from "../api/client";
import { useJob } from "../job/job";

/** When the job was kept, and its steps to go to, those that were given up for another version too. */
export function Steps({ kept }: { kept: string }) {
  const { job, open } = useJob();
  const [shown, setShown] = useState(false);
  const { data } = useQuery({ queryKey: ["steps", job.id, job.revision], enabled: shown, queryFn: () => call("get_steps", { path: { job_id: job.id } }) });
  return (
    <Popover.Root open={shown} onOpenChange={setShown}>
      <Popover.Trigger className="rounded px-1 hover:bg-white/10" title={job.step_label}>Saved {kept} · step {job.step}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="end" sideOffset={6} className="z-50 w-[320px] rounded-md border border-rule bg-paper p-2 text-ink shadow-lg">
          <h2 className="px-1.5 pb-1 text-[14px]">Steps of this job</h2>
          <ol className="max-h-[50vh] overflow-y-auto" aria-label="Steps">
            {(data ?? []).map((step) => (
              <li key={step.number}>
                <button
                  type="button"
                  aria-current={step.current ? "step" : undefined}
                  onClick={() => {
                    setShown(false);
                    if (!step.current) open(step.number);
                  }}
                  className="flex w-full items-baseline gap-2 rounded px-1.5 py-1 text-left hover:bg-act-pale aria-[current=step]:bg-act-pale"
                >
                  <span className="figure w-7 shrink-0 text-right text-[11.5px] text-quiet">{step.number}</span>
                  <span className="min-w-0 grow truncate">{step.label}</span>
                  {step.aside && <span className="shrink-0 rounded-[3px] bg-look-pale px-1.5 text-[11px] font-semibold text-look">undone</span>}
                </button>
              </li>
            ))}
          </ol>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
