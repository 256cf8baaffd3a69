import { Trash2 } from "lucide-react";

import { useState } from "react";

import { previewUrl } from "../api/client";
import { useJob } from "../job/job";
import { shortVerdict } from "./artwork/BackgroundSection";
import { Button } from "../ui/Button";
import { needLooking } from "./Findings";
import { PiecesTable } from "./PiecesTable";

/** The job's pieces; the chosen one is on the light table. */
export function Pieces() {
  const { job, selected, select, change, merge } = useJob();
  const [ticked, setTicked] = useState<string[]>([]);
  const [listed, setListed] = useState(false);
  const designs = job.recipe.designs ?? [];
  const together = ticked.filter((id) => designs.some((design) => design.id === id));
  const ofPages = designs.filter((design) => (design.mend?.drawings.length ?? 0) > 0);
  const tick = (id: string) => setTicked(together.includes(id) ? together.filter((other) => other !== id) : [...together, id]);
  return (
    <>
    {designs.length > 6 && (
      <p className="px-3.5 pb-1"><Button kind="quiet" onClick={() => setListed(true)}>All {designs.length} in a table</Button></p>
    )}
    <PiecesTable open={listed} onClose={() => setListed(false)} />
    {together.length > 1 && (
      <p className="px-3.5 pb-1">
        <Button onClick={() => { merge(together); setTicked([]); }}>Combine {together.length}</Button>
      </p>
    )}
    <ul aria-label="Pieces" className="max-h-[19rem] overflow-y-auto px-2.5 pb-1">
      {designs.map((design) => {
        const known = job.designs.find((each) => each.id === design.id);
        if (!known) return null;
        const looks = needLooking(job.findings).filter((finding) => finding.design === design.id).length;
        const on = design.id === selected?.id;
        return (
          <li key={design.id} className={`group flex items-center rounded-md ${on ? "bg-act-pale" : "hover:bg-paper"}`}>
            {ofPages.length > 1 && ofPages.includes(design) && (
              <input
                type="checkbox"
                aria-label={`Combine ${design.name} with others`}
                title="Tick two or more to combine them"
                checked={together.includes(design.id)}
                onChange={() => tick(design.id)}
                className="ml-1 accent-act"
              />
            )}
            <button
              type="button"
              aria-pressed={on}
              onClick={() => select(design.id)}
              className="flex min-w-0 grow items-center gap-2.5 rounded-md p-1 text-left"
            >
              <span className="grid size-10 shrink-0 place-items-center rounded border border-rule bg-paper">
                <img src={previewUrl(known.artwork.picture)} alt="" className="max-h-9 max-w-9 object-contain" />
              </span>
              <span className="min-w-0 grow">
                <span className="flex items-baseline justify-between gap-2">
                  <b className="truncate font-semibold" title={design.name}>{design.name}</b>
                  {looks > 0 && <span className="shrink-0 rounded-[3px] bg-look-pale px-1.5 text-[11px] font-semibold text-look">{looks} to look at</span>}
                </span>
                <span className="block truncate text-[12px] text-quiet tabular-nums">
                  {`${known.artwork.came_px[0]} × ${known.artwork.came_px[1]} px · ${Math.round(known.ppi)} ppi · ${shortVerdict(known.artwork, design.mend)}`}
                </span>
              </span>
            </button>
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
          </li>
        );
      })}
    </ul>
    </>
  );
}

/** The same pieces as a strip of thumbnails, where the room is needed for readings. */
export function PieceStrip() {
  const { job, selected, select } = useJob();
  const looked = new Set(needLooking(job.findings).flatMap((finding) => (finding.station === "lines" ? [finding.design] : [])));
  return (
    <ul aria-label="Pieces" className="flex max-h-28 flex-wrap gap-1.5 overflow-y-auto px-3.5 py-1">
      {(job.recipe.designs ?? []).map((design) => (
        <li key={design.id}>
          <button
            type="button"
            title={design.name}
            aria-label={looked.has(design.id) ? `${design.name}, to look at` : design.name}
            aria-pressed={design.id === selected?.id}
            onClick={() => select(design.id)}
            className="relative grid size-11 place-items-center rounded-md border-2 border-transparent bg-paper hover:border-rule aria-pressed:border-act"
          >
            <img src={previewUrl(job.designs.find((each) => each.id === design.id)?.artwork.picture ?? design.artwork)} alt="" className="max-h-9 max-w-9 object-contain" />
            {looked.has(design.id) && <span className="figure absolute -top-1 -right-1 size-4 rounded-full bg-look text-[10px] leading-4 text-white">!</span>}
          </button>
        </li>
      ))}
    </ul>
  );
}
