import { ArrowRight } from "lucide-react";
import type { ReactNode } from "react";
import { Link } from "react-router";

import { useJob } from "../job/job";
import { STATIONS } from "../job/stubs";

interface Props {
  table: ReactNode;
  children: ReactNode;
  /** Words of the button to the next station, and its number. */
  next?: { label: string; station: number };
}

/** A station's screen: light table in the middle, readings on the right, one button onward. */
export function Station({ table, children, next }: Props) {
  const { job } = useJob();
  const target = next && STATIONS[next.station - 1];
  return (
    <>
      <main className="min-w-0 border border-rule">{table}</main>
      <aside aria-label="Readings" className="flex min-h-0 flex-col rounded-r-lg border border-l-0 border-rule bg-card">
        <div className="min-h-0 grow overflow-y-auto">{children}</div>
        {next && target && (
          <div className="flex items-center gap-2.5 border-t-[1.5px] border-dashed border-rule px-3.5 py-3">
            <Link
              to={`/jobs/${job.id}/${target.path}`}
              className="inline-flex items-center gap-2 rounded-md bg-act px-3.5 py-2 font-semibold text-white hover:bg-[#0b4a46]"
            >
              {next.label} <ArrowRight size={16} aria-hidden />
            </Link>
            <small className="text-quiet">key {next.station}</small>
          </div>
        )}
      </aside>
    </>
  );
}

/** What an empty light table says: the next act in a sentence. */
export function EmptyTable({ children }: { children: ReactNode }) {
  return (
    <div className="grid h-full place-items-center bg-table p-8">
      <div className="max-w-sm text-center text-[15px] text-quiet">{children}</div>
    </div>
  );
}
