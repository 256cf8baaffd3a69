import { Check } from "lucide-react";

import type { Finding } from "../api/client";
import { useJob } from "../job/job";
import { useUnits } from "../ui/units";
import { Button } from "../ui/Button";

const PIN = { good: "bg-good", look: "bg-look", stop: "bg-stop" };

/** What a station has to say; the numbers are those of the pins on the light table. */
export function Findings({ title, findings, quiet }: { title: string; findings: Finding[]; quiet?: string }) {
  const { job, remedy } = useJob();
  /** The same on other pieces; what is removed has a place of its own, so that one piece may have several. */
  const alike = (finding: Finding) => {
    const same = job.findings.filter((each) => each.code === finding.code && each.remedy?.act === finding.remedy?.act && each.design != null);
    const several = finding.remedy?.act === "knock_out";
    return same.some((each) => each.design !== finding.design)
      ? same.filter((each) => each.design !== finding.design || (several && each.text + each.where_mm !== finding.text + finding.where_mm))
      : [];
  };
  const { sentence } = useUnits();
  let pin = 0;
  if (findings.length === 0 && !quiet) return null;
  return (
    <section aria-label={title} className="border-b border-rule last:border-b-0">
      <h2 className="px-3.5 pt-2.5 pb-1.5 text-[14px]">{title}</h2>
      {findings.length === 0 && quiet && <p className="px-3.5 pb-2 text-quiet">{quiet}</p>}
      <ul>
        {findings.map((finding) => {
          const good = finding.severity === "good";
          if (!good) pin += 1;
          return (
            <li
              key={`${finding.code}-${finding.design}-${finding.text}`}
              className="mx-2.5 mb-2 grid grid-cols-[22px_1fr] gap-2 rounded-md border border-rule bg-paper px-2.5 py-2 text-[13px]"
            >
              <span className={`figure grid size-5 place-items-center rounded-[10px_10px_10px_2px] text-[11px] font-semibold text-white ${PIN[finding.severity]}`}>
                {good ? <Check size={12} aria-label="Good" /> : <span aria-label={finding.severity === "stop" ? "Stop" : "To look at"}>{pin}</span>}
              </span>
              <div>
                <p>{sentence(finding.message)}</p>
                {finding.remedy && (
                  <Button kind="quiet" onClick={() => remedy(finding)}>{finding.remedy_message ? sentence(finding.remedy_message) : finding.remedy.label}</Button>
                )}
                {finding.remedy && finding.design && alike(finding).length > 0 && (
                  <Button kind="quiet" onClick={() => remedy(finding, alike(finding))}>For all {new Set([finding.design, ...alike(finding).map((each) => each.design)]).size} that have it</Button>
                )}
              </div>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

export const needLooking = (findings: Finding[]) => findings.filter((finding) => finding.severity !== "good");
