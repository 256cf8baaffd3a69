import type { Schemas } from "../../api/client";
import { PROCESSES } from "../../api/constants";
import { Reading } from "../../ui/Reading";
import { useUnits } from "../../ui/units";

/** Minutes and seconds. */
export const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(Math.round(seconds) % 60).padStart(2, "0")}`;

/** One line a process: what will be cut, how long, in which time. */
export function Totals({ plan }: { plan: Schemas["CutPlanView"] }) {
  const { unit } = useUnits();
  const long = (mm: number) => (unit === "mm" ? `${(mm / 1000).toFixed(2)} m` : `${(mm / 304.8).toFixed(1)} ft`);
  return (
    <>
      {plan.processes.map((each, index) => (
        <Reading key={each.process} label={`${index + 1}. ${PROCESSES.find(({ name }) => name === each.process)?.title ?? each.process}`}>
          {each.count} · {long(each.length_mm)} · {clock(each.seconds)}
        </Reading>
      ))}
      <Reading label="Total time, about">{clock(plan.seconds)}</Reading>
    </>
  );
}
