import { ChevronLeft, ChevronRight, Pin } from "lucide-react";
import { useEffect, useState } from "react";

import type { Schemas } from "../../api/client";
import { clockOf, dayOf, startOfDay } from "../../ui/when";
import type { Day } from "./day";

type DayStep = Schemas["DayStep"];

const HOUR = 3_600_000;
const COLOURS = ["#0f5c57", "#4c7e9b", "#6e5a8e", "#8a6a3b", "#586762", "#7a4b52", "#3f6f4a"];
const NAMES: Record<string, string> = { print: "print", cut: "cut", finish: "weed, count", dry: "dries" };

/** Steps on a day, a row a machine. A step is a button: it can be pinned. */
export function Timeline({ day, told, onChoose }: { day: Day; told: string; onChoose: (step: DayStep) => void }) {
  const days = [...new Set([...day.openings.map(({ start_at }) => startOfDay(new Date(start_at))), ...day.steps.map(({ start_at }) => startOfDay(new Date(start_at)))])].sort((a, b) => a - b);
  const [chosen, setChosen] = useState<number | null>(null);
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 30_000);
    return () => clearInterval(timer);
  }, []);
  const busy = day.steps[0] ? startOfDay(new Date(day.steps[0].start_at)) : days[0];
  const shown = chosen !== null && days.includes(chosen) ? chosen : (busy ?? startOfDay(new Date()));
  const at = days.indexOf(shown);
  const opening = day.openings.find(({ start_at }) => startOfDay(new Date(start_at)) === shown);
  const mine = (step: DayStep) => new Date(step.end_at).getTime() > from && new Date(step.start_at).getTime() < to;
  const from = Math.floor((opening ? Math.min(new Date(opening.start_at).getTime(), ...startsOn(day, shown)) : shown + 9 * HOUR) / HOUR) * HOUR;
  const to = Math.max(opening ? new Date(opening.end_at).getTime() : shown + 17 * HOUR, from + HOUR);
  const x = (time: number) => ((Math.min(Math.max(time, from), to) - from) / (to - from)) * 100;
  const hours = Array.from({ length: Math.floor((to - from) / HOUR) + 1 }, (_, n) => from + n * HOUR);
  const every = Math.ceil(hours.length / 11);
  const jobs = [...new Set(day.steps.map((step) => step.job))].sort((a, b) => a - b);
  const colour = (job: number) => COLOURS[jobs.indexOf(job) % COLOURS.length];
  const hands = day.lanes.at(-1);
  const lanes = [...day.lanes.slice(0, -1), ...(day.dries.some(mine) ? [{ id: "drying", name: "Drying" }] : []), ...(hands ? [hands] : [])];
  const turn = (by: number) => days[at + by] !== undefined && setChosen(days[at + by]!);
  return (
    <>
      <div className="perforated flex items-center gap-2 px-3.5 py-2">
        <h2 className="text-[15px] first-letter:uppercase">{dayOf(new Date(shown))}</h2>
        <button type="button" aria-label="The day before" disabled={at <= 0} onClick={() => turn(-1)} className="rounded p-0.5 hover:bg-card disabled:opacity-30"><ChevronLeft size={16} /></button>
        <button type="button" aria-label="The next day" disabled={at < 0 || at >= days.length - 1} onClick={() => turn(1)} className="rounded p-0.5 hover:bg-card disabled:opacity-30"><ChevronRight size={16} /></button>
        <span role="status" className={`grow truncate text-right text-[12.5px] ${day.late.length || day.problem ? "text-look" : "text-quiet"}`}>{told}</span>
      </div>
      <div className="min-h-0 grow overflow-y-auto px-3.5 pt-1 pb-2">
        <div className="relative ml-[118px] h-5">
          {hours.map((hour, n) => n % every === 0 && (
            <span key={hour} className={`figure absolute text-[11px] text-quiet ${n === 0 ? "" : n === hours.length - 1 ? "-translate-x-full" : "-translate-x-1/2"}`} style={{ left: `${x(hour)}%` }}>{clockOf(new Date(hour))}</span>
          ))}
        </div>
        <ul className="relative">
          {lanes.map((lane) => (
            <li key={lane.id} className="flex items-stretch border-b border-[#e6ecea] last:border-b-0">
              <span className="flex w-[118px] shrink-0 items-center pr-2 text-[13px] leading-tight">{lane.name}</span>
              <span className="relative h-[46px] min-w-0 grow overflow-hidden">
                {hours.map((hour) => <span key={hour} aria-hidden className="absolute inset-y-0 w-px bg-[#eef2f0]" style={{ left: `${x(hour)}%` }} />)}
                {[...day.steps, ...day.dries].filter((step) => step.lane === lane.id && mine(step)).map((step) => {
                  const left = x(new Date(step.start_at).getTime());
                  const wide = Math.max(x(new Date(step.end_at).getTime()) - left, 0.6);
                  const words = `${step.title}, ${NAMES[step.step.split(" ")[0]!]}, ${clockOf(step.start_at)} to ${clockOf(step.end_at)}`;
                  const dries = step.step === "dry";
                  return (
                    <button
                      key={`${step.job} ${step.step}`}
                      type="button"
                      disabled={dries}
                      aria-label={`${words}${step.pinned ? ", pinned" : ""}`}
                      title={words}
                      onClick={() => onChoose(step)}
                      className={`absolute top-2 flex h-[30px] items-center gap-1 overflow-hidden rounded-[5px] px-1.5 text-left text-[11.5px] whitespace-nowrap ${dries ? "border border-rule bg-[repeating-linear-gradient(135deg,#eef2f0_0_4px,#fff_4px_8px)] text-ink" : "text-white hover:brightness-110"}`}
                      style={{ left: `${left}%`, width: `${wide}%`, background: dries ? undefined : colour(step.job) }}
                    >
                      {step.pinned && <Pin size={11} aria-hidden className="shrink-0" />}
                      {wide > 3.4 && <span className="figure">{String(step.job).padStart(4, "0")}</span>}
                    </button>
                  );
                })}
              </span>
            </li>
          ))}
          {now >= from && now <= to && (
            <span aria-hidden className="pointer-events-none absolute inset-y-0 right-0 left-[118px]">
              <span className="absolute inset-y-0 w-[2px] bg-stop" style={{ left: `${x(now)}%` }} />
            </span>
          )}
        </ul>
        {jobs.length > 0 && (
          <p className="flex flex-wrap gap-x-4 gap-y-0.5 pt-2 text-[12.5px]">
            {jobs.slice(0, 14).map((job) => (
              <span key={job} className="inline-flex items-center gap-1.5">
                <span aria-hidden className="size-2.5 rounded-[3px]" style={{ background: colour(job) }} />
                <span className="figure text-[11.5px]">{String(job).padStart(4, "0")}</span> {day.steps.find((step) => step.job === job)?.title}
              </span>
            ))}
          </p>
        )}
        {day.steps.length === 0 && <p className="pt-3 text-quiet">Work that is due, ordered or printed lately is planned here, from printing and drying to cutting and packing.</p>}
      </div>
    </>
  );
}

const startsOn = (day: Day, shown: number) => day.steps.map(({ start_at }) => new Date(start_at).getTime()).filter((time) => startOfDay(new Date(time)) === shown);
