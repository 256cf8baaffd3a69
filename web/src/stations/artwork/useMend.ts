import { useCallback } from "react";

import { type Design, type Mend, UNMENDED } from "../../api/client";
import { useJob } from "../../job/job";

/** Keeps a change of one picture's mend as a step; the original stays as it came. */
export function useMend(design: Design) {
  const { change } = useJob();
  const keep = useCallback(
    (label: string, changes: Partial<Mend>, also: Partial<Design> = {}) =>
      change(`${label}, ${design.name}`, (recipe) => ({
        ...recipe,
        designs: (recipe.designs ?? []).map((each) =>
          each.id === design.id ? { ...each, ...also, mend: { ...UNMENDED, ...each.mend, ...changes } } : each,
        ),
      })),
    [change, design.id, design.name],
  );
  return { mend: { ...UNMENDED, ...design.mend }, keep };
}
