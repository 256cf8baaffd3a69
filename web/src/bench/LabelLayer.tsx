import { keepPreviousData, useQuery } from "@tanstack/react-query";

import { api, ask, type Painted, type Sheets } from "../api/client";
import { useJob } from "../job/job";

/** What each sticker of a sheet says, where it stands. */
export function LabelLayer({ sheets, number }: { sheets: Sheets; number: number }) {
  const { job } = useJob();
  const listed = (job.recipe.designs ?? []).some((design) => design.labels);
  const { data } = useQuery({
    queryKey: ["label sheet", job.id, job.revision, number],
    enabled: listed && number < job.sheets.sheets.length,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => ask<Painted[][]>(api.POST("/api/labels/sheets/{number}", { signal, params: { path: { number: number + 1 } }, body: job.recipe })),
  });
  if (!listed || !data) return null;
  return (
    <g pointerEvents="none">
      {(sheets.sheets[number] ?? []).map((place, index) => (
        <g key={index} transform={`translate(${place.x_mm + place.width_mm / 2} ${place.y_mm + place.height_mm / 2}) rotate(${place.rotation_deg}) translate(${-place.width_mm / 2} ${-place.height_mm / 2})`}>
          {data[index]?.map((each, n) => <path key={n} d={each.path} fill={each.colour} />)}
        </g>
      ))}
    </g>
  );
}
