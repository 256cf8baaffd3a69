import { NavLink } from "react-router";

import { useJob } from "../job/job";
import { STATIONS, stubs } from "../job/stubs";
import { useUnits } from "../ui/units";
import { Title } from "./Title";

const TAG = {
  good: "text-good bg-good-pale",
  look: "text-look bg-look-pale",
  stop: "text-stop bg-stop-pale",
  next: "text-act bg-act-pale",
  wait: "text-quiet bg-[#edf1ef]",
};

/** The job as a perforated ticket, one stub a station. */
export function Docket() {
  const { job } = useJob();
  const units = useUnits();
  const told = stubs(job, units);
  return (
    <nav aria-label="Stations" className="docket-edge relative z-10 flex min-h-0 flex-col overflow-visible rounded-l-lg border border-r-0 border-rule bg-paper">
      <div className="perforated px-4 pt-3 pb-2.5">
        <small className="figure text-[11px] text-quiet">JOB {String(job.id).padStart(4, "0")}</small>
        <Title />
      </div>
      {STATIONS.map((station, index) => {
        const stub = told[index]!;
        return (
          <NavLink
            key={station.path}
            to={`/jobs/${job.id}/${station.path}`}
            className={({ isActive }) =>
              `perforated grid grid-cols-[20px_1fr] gap-x-2 py-2.5 pr-4 pl-4 focus-visible:-outline-offset-2 ` +
              (isActive ? "bg-act-pale shadow-[inset_4px_0_0_var(--color-act)]" : "hover:bg-card")
            }
          >
            <span className="figure pt-0.5 text-[11px] font-semibold text-quiet">{index + 1}</span>
            <span>
              <b className="font-head text-[14px] font-semibold">{station.name}</b>
              <span className={`ml-1.5 rounded-[3px] px-1.5 text-[11px] font-semibold ${TAG[stub.tone]}`}>{stub.state}</span>
              <span className="mt-px block text-[12.5px] leading-snug tabular-nums">{stub.figures}</span>
            </span>
          </NavLink>
        );
      })}
    </nav>
  );
}
