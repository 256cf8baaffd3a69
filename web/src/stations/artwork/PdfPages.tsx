import type { Design, DesignFacts, Recipe } from "../../api/client";
import { UNMENDED } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { CountField } from "../../ui/CountField";
import { Section } from "../../ui/Reading";
import { useMend } from "./useMend";

const MOST = 60;

/** Which page of a PDF this piece is, and every other page at one click. */
export function PdfPages({ design, facts }: { design: Design; facts: DesignFacts }) {
  const { job, change } = useJob();
  const { mend, keep } = useMend(design);
  const { pages } = facts.artwork;
  const used = new Set((job.recipe.designs ?? []).filter((each) => each.artwork === design.artwork).map((each) => each.mend?.page ?? 1));
  const free = MOST - (job.recipe.designs ?? []).length;
  const missing = Array.from({ length: pages }, (_, n) => n + 1).filter((page) => !used.has(page)).slice(0, free);
  return (
    <Section title={`Page of ${pages}`}>
      <CountField label="This piece is page" value={mend.page} min={1} max={pages} onKeep={(page) => void keep(`Page ${page}`, { ...UNMENDED, page })} />
      {missing.length > 0 && (
        <p className="px-3.5 py-1">
          <Button onClick={() => void change(`Add ${missing.length} pages`, (recipe) => withPages(recipe, design, missing))}>
            Add the other {missing.length === 1 ? "page" : `${missing.length} pages`}
          </Button>
        </p>
      )}
    </Section>
  );
}

function withPages(recipe: Recipe, design: Design, pages: number[]): Recipe {
  const designs = [...(recipe.designs ?? [])];
  const last = Math.max(0, ...designs.map((each) => Number(/^d(\d+)$/.exec(each.id)?.[1] ?? 0)));
  const base = design.name.replace(/, page \d+$/, "");
  const added = pages.map((page, n): Design => ({ ...design, id: `d${last + 1 + n}`, name: `${base.slice(0, 105)}, page ${page}`, mend: { ...UNMENDED, page } }));
  designs.splice(designs.findIndex((each) => each.id === design.id) + 1, 0, ...added);
  return { ...recipe, designs };
}
