import { createContext, type ReactNode, useCallback, useContext, useState } from "react";

import { type Artwork, type Design, NO_RIGHTS, PLAIN_LINES, Problem, type Recipe, sendArtwork, UNMENDED } from "../api/client";
import { useJob } from "./job";
import { newTicket } from "./operations";

export interface Upload {
  key: number;
  name: string;
  share: number;
  problem: Problem | null;
  ticket: string;
}

interface Uploads {
  uploads: Upload[];
  add: (files: Iterable<File>) => Promise<void>;
  dismiss: (key: number) => void;
}

const Context = createContext<Uploads | null>(null);
const AT_ONCE = 3;
let nextKey = 1;

/** Takes in many pictures at a time; one that fails says why and holds nothing up. All that come in are one step. */
export function UploadsProvider({ children }: { children: ReactNode }) {
  const { change, select } = useJob();
  const [uploads, setUploads] = useState<Upload[]>([]);

  const add = useCallback(
    async (files: Iterable<File>) => {
      const waiting = [...files].map((file) => ({ file, key: nextKey++, ticket: newTicket() }));
      if (waiting.length === 0) return;
      const order = waiting.map(({ key }) => key);
      setUploads((before) => [...before, ...waiting.map(({ file, key, ticket }) => ({ key, name: file.name, share: 0, problem: null, ticket }))]);
      const update = (key: number, next: Partial<Upload>) =>
        setUploads((before) => before.map((each) => (each.key === key ? { ...each, ...next } : each)));
      const taken = new Map<number, { name: string; artwork: Artwork }>();
      const work = async () => {
        for (let next = waiting.shift(); next; next = waiting.shift()) {
          const { file, key, ticket } = next;
          try {
            const artwork = await sendArtwork(file, ticket, (share) => update(key, { share }));
            taken.set(key, { name: file.name, artwork });
            setUploads((before) => before.filter((each) => each.key !== key));
          } catch (problem) {
            update(key, { problem: problem instanceof Problem ? problem : Problem.unreachable() });
          }
        }
      };
      await Promise.all(Array.from({ length: AT_ONCE }, work));
      const inOrder = order.flatMap((key) => taken.get(key) ?? []);
      if (inOrder.length === 0) return;
      let first: string | undefined;
      await change(inOrder.length === 1 ? `Add ${inOrder[0]!.name}` : `Add ${inOrder.length} pictures`, (recipe) => {
        const changed = withPictures(recipe, inOrder);
        first = changed.designs?.[recipe.designs?.length ?? 0]?.id;
        return changed;
      });
      if (first) select(first);
    },
    [change, select],
  );

  const dismiss = useCallback((key: number) => setUploads((before) => before.filter((each) => each.key !== key)), []);
  return <Context.Provider value={{ uploads, add, dismiss }}>{children}</Context.Provider>;
}

/** New pieces take border and peel margin from the last one, so that a set stays a set. */
function withPictures(recipe: Recipe, pictures: { name: string; artwork: Artwork }[]): Recipe {
  const designs = [...(recipe.designs ?? [])];
  for (const { name, artwork } of pictures) {
    const last = designs.at(-1);
    const number = Math.max(0, ...designs.map((each) => Number(/^d(\d+)$/.exec(each.id)?.[1] ?? 0))) + 1;
    const design: Design = {
      id: `d${number}`,
      name: nameOf(name),
      artwork: artwork.sha256,
      mend: UNMENDED,
      longest_mm: 60,
      border_mm: last?.border_mm ?? 2,
      peel_mm: last?.peel_mm ?? null,
      copies: last?.copies ?? 1,
      group: "",
      lines: { ...PLAIN_LINES, own: last?.lines?.own ?? "kiss", outer: last?.lines?.outer ?? "through" },
      rights: last?.rights ?? NO_RIGHTS,
    };
    designs.push(design);
  }
  return { ...recipe, designs };
}

function nameOf(file: string): string {
  const bare = file.replace(/\.[^.]+$/, "").replace(/[_-]+/g, " ").trim() || "Piece";
  return (bare[0]!.toUpperCase() + bare.slice(1)).slice(0, 120);
}

export function useUploads(): Uploads {
  const uploads = useContext(Context);
  if (!uploads) throw new Error("outside of UploadsProvider");
  return uploads;
}
