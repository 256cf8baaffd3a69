import type { Sheets } from "../api/client";
import { SheetDrawing } from "../bench/drawing";
import { processLayers } from "../bench/LineKey";
import { useJob } from "../job/job";
import { UsedBefore } from "./scraps";
import { useAllLines, useSheetLabels } from "../job/lines";

/** A sheet of the open job as it is drawn on the table. */
export function JobSheet({ sheets, number, shown, paper }: { sheets?: Sheets; number: number; shown: Set<string>; paper?: boolean }) {
  const { job } = useJob();
  const lines = useAllLines();
  const labels = useSheetLabels(number);
  const used = job.recipe.sheet?.scrap?.used;
  return (
    <>
    <SheetDrawing
      designs={job.recipe.designs ?? []}
      facts={job.designs}
      lines={lines}
      sheet={job.recipe.sheet}
      sheets={sheets ?? job.sheets}
      labels={labels}
      number={number}
      shown={shown}
      paper={paper}
    />
    {used && <UsedBefore rings={used} />}
    </>
  );
}

/** The layers of the processes that are on the job's sheets. */
export function useSheetLayers() {
  const { sheet } = useJob().job.recipe;
  const lines = useAllLines();
  const drawn = [...lines.values()].flatMap((each) => Object.keys(each.paths));
  const around = [sheet?.card?.cut, sheet?.perimeter_cut].filter((each) => each && each !== "none") as string[];
  return processLayers(new Set([...drawn, ...around]));
}
