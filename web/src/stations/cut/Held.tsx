import { useQuery } from "@tanstack/react-query";
import { Fragment, useEffect, useRef, useState } from "react";

import { call, type Run, type Schemas } from "../../api/client";
import { PROCESSES } from "../../api/constants";
import { useJob } from "../../job/job";
import { count } from "../../job/stubs";
import { Button } from "../../ui/Button";
import { useNotice } from "../../ui/Notice";
import { Toggle } from "../../ui/Toggle";

const titleOf = (process: string) => (PROCESSES.find((each) => each.name === process)?.title ?? process).toLowerCase();

/** A sheet that lies in the plotter still: what clings is cut once more over the very same lines. */
/** Stickers whose corners are lifted before the sheet comes out. */
export function useCorners(run: Run | undefined) {
  const held = run?.state === "held" ? run.id : null;
  const { data } = useQuery({
    queryKey: ["corners", held],
    enabled: held !== null,
    queryFn: ({ signal }) => call("get_corners", { path: { run_id: held! }, signal }),
    staleTime: Infinity,
    retry: false,
  });
  return held === null ? undefined : data;
}

export function Held({ run, totals, chosen, onDone }: { run: Run; totals: Schemas["ProcessPlanView"][]; chosen: Set<number>; onDone: () => void }) {
  const tell = useNotice();
  const corners = useCorners(run);
  const off = useRef<HTMLButtonElement>(null);
  const path = { run_id: run.id };
  // The button that was pressed is gone; whoever works from the keyboard goes on here.
  useEffect(() => {
    if (document.activeElement === document.body) off.current?.focus();
  }, []);
  const [harder, setHarder] = useState(false);
  const again = (process: string | null) => {
    const body = { do: "cut again" as const, process, stickers: [...chosen], harder };
    void call("post_once_more", { path, body }).then(onDone).catch(tell);
  };
  return (
    <div className="mx-2.5 mb-2 rounded-md border border-rule bg-paper px-2.5 py-2">
      <p>
        {corners && corners.stickers.length > 1
          ? `Lift a corner of the ${corners.stickers.length} stickers with a dot, and leave the sheet where it lies. Does one cling?`
          : "Lift a corner, and leave the sheet where it lies. Does it cling?"}
        {corners?.is_first && corners.stickers.length > 1 && " So many because it is the first sheet with these settings."}
      </p>
      <p className="pb-1 text-[12.5px] text-quiet">
        {chosen.size ? `${count(chosen.size, "sticker")} chosen: only these are cut again.` : "Click the stickers that cling, or cut all again. Keep hands off the carriage while it moves."}
      </p>
      <div className="-mx-3.5"><Toggle label="With a step more of force" on={harder} onChange={setHarder} /></div>
      <p className="flex flex-wrap gap-1.5">
        <Button onClick={() => again(null)}>{chosen.size ? "These again" : "All again"}</Button>
        {totals.length > 1 && totals.map(({ process }) => <Button key={process} onClick={() => again(process)}>{`Only ${titleOf(process)} again`}</Button>)}
        <Button ref={off} kind="act" onClick={() => void call("post_unload", { path }).then(onDone).catch(tell)}>It peels cleanly: unload</Button>
      </p>
    </div>
  );
}

/** Every sticker of a sheet, to be chosen by a click. */
export function Stickers({ run, number, chosen, onChoose }: { run: Run; number: number; chosen: Set<number>; onChoose: (chosen: Set<number>) => void }) {
  const { job } = useJob();
  const lifted = new Set(useCorners(run)?.stickers);
  const places = job.sheets.sheets[number]?.placements ?? [];
  const turn = (sticker: number) => {
    const next = new Set(chosen);
    if (!next.delete(sticker)) next.add(sticker);
    onChoose(next);
  };
  return (
    <g role="group" aria-label="Stickers that cling">
      {places.map((place, sticker) => {
        const [left, top, right, bottom] = place.box as [number, number, number, number];
        const on = chosen.has(sticker);
        return (
          <Fragment key={sticker}>
          {lifted.has(sticker) && <circle cx={(left + right) / 2} cy={(top + bottom) / 2} r={3.5} fill="#0f5c57" stroke="#ffffff" strokeWidth={1.2} pointerEvents="none" />}
          <rect
            role="checkbox"
            tabIndex={0}
            aria-checked={on}
            aria-label={`Sticker ${sticker + 1}${lifted.has(sticker) ? ", to be lifted" : ""}`}
            x={left}
            y={top}
            width={right - left}
            height={bottom - top}
            rx={1.5}
            fill={on ? "#a55f0055" : "#0f5c5700"}
            stroke={on ? "#a55f00" : "#0f5c57"}
            strokeWidth={on ? 0.8 : 0.3}
            strokeDasharray={on ? undefined : "1.5 1.5"}
            className="cursor-pointer"
            onClick={() => turn(sticker)}
            onKeyDown={(event) => {
              if (event.key !== " " && event.key !== "Enter") return;
              event.preventDefault();
              turn(sticker);
            }}
          />
          </Fragment>
        );
      })}
    </g>
  );
}

/** A cut that broke off: the next line, and what becomes of the one that was in the blade. */
export function GoOn({ run, isLast, onDone }: { run: Run; isLast: boolean; onDone: () => void }) {
  const tell = useNotice();
  if (!isLast || !run.is_over || run.state === "done" || run.lines_done === 0 || run.lines_done >= run.lines_total) return null;
  const go = (in_blade: "again" | "leave") => void call("post_resume", { path: { run_id: run.id }, body: { in_blade } }).then(onDone).catch(tell);
  const next = run.lines_done + 1;
  const inBlade = run.state === "stopped";
  return (
    <div className="mx-2.5 mb-2 rounded-md border border-rule bg-paper px-2.5 py-2">
      <p>{inBlade ? `Line ${next} of ${run.lines_total} was in the blade when it stopped. Look at it, lay the same sheet in again, and go on.` : `Line ${next} of ${run.lines_total} is the next. Lay the same sheet in again, and go on.`}</p>
      <p className="flex flex-wrap gap-1.5 pt-1.5">
        <Button kind="act" onClick={() => go("again")}>{inBlade ? `Go on, line ${next} again` : `Go on at line ${next}`}</Button>
        {inBlade && next < run.lines_total && <Button onClick={() => go("leave")}>Go on, leave line {next}</Button>}
      </p>
    </div>
  );
}
