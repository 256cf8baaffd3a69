import { Trash2 } from "lucide-react";

import { previewUrl } from "../api/client";
import { useJob } from "../shop/job";
import { useUnits } from "../units";
import { needLooking } from "../ui/Findings";

/** The job's pieces with thumbnails; the chosen one is on the light table. */
export function Pieces({ removable = false, facts }: { removable?: boolean; facts: "pixels" | "lines" }) {
  const { job, selected, select, change } = useJob();
  const { length } = useUnits();
  return (
    <ul aria-label="Pieces" className="px-2.5 pb-1">
      {(job.recipe.designs ?? []).map((design) => {
        const known = job.designs.find((each) => each.id === design.id);
        if (!known) return null;
        const looks = needLooking(job.findings).filter((finding) => finding.design === design.id).length;
        const on = design.id === selected?.id;
        return (
          <li key={design.id} className={`group flex items-center rounded-md ${on ? "bg-act-pale" : "hover:bg-paper"}`}>
            <button
              type="button"
              aria-pressed={on}
              onClick={() => select(design.id)}
              className="flex min-w-0 grow items-center gap-2.5 rounded-md p-1 text-left"
            >
              <span className="grid size-10 shrink-0 place-items-center rounded border border-rule bg-paper">
                <img src={previewUrl(design.artwork)} alt="" className="max-h-9 max-w-9 object-contain" />
              </span>
              <span className="min-w-0">
                <b className="block truncate font-semibold">{design.name}</b>
                <span className="figure block truncate text-[11px] text-quiet">
                  {facts === "pixels"
                    ? `${known.artwork.width_px} × ${known.artwork.height_px} px · ${Math.round(known.ppi)} ppi`
                    : `${length(known.width_mm, 1)} × ${length(known.height_mm, 1)}`}
                </span>
              </span>
              {looks > 0 && (
                <span className="ml-auto shrink-0 rounded-[3px] bg-look-pale px-1.5 text-[11px] font-semibold text-look">{looks} to look at</span>
              )}
            </button>
            {removable && (
              <button
                type="button"
                aria-label={`Remove ${design.name}`}
                title="Remove (Ctrl Z brings it back)"
                onClick={() =>
                  void change(`Remove ${design.name}`, (recipe) => ({
                    ...recipe,
                    designs: (recipe.designs ?? []).filter((other) => other.id !== design.id),
                  }))
                }
                className="mr-1 rounded p-1.5 text-quiet opacity-0 group-hover:opacity-100 hover:bg-stop-pale hover:text-stop focus-visible:opacity-100"
              >
                <Trash2 size={15} />
              </button>
            )}
          </li>
        );
      })}
    </ul>
  );
}
