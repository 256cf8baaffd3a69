import { type Design, NO_RIGHTS, type Rights } from "../../api/client";
import { useJob } from "../../job/job";
import { Choice } from "../../ui/Choice";
import { Fold } from "../../ui/Fold";
import { Row } from "../../ui/Reading";
import { TextField } from "../../ui/TextField";
import { SCOPES, useScope, withDesigns } from "../scope";

const SOLD = [
  { value: "yes" as const, label: "Yes" },
  { value: "no" as const, label: "No" },
  { value: "unknown" as const, label: "Unknown" },
];

/** Where the art came from, and whether it may be sold. */
export function RightsSection({ design }: { design: Design }) {
  const { job, change } = useJob();
  const [scope, setScope] = useScope("one");
  const many = (job.recipe.designs ?? []).length > 1;
  const rights = design.rights ?? NO_RIGHTS;
  const set = (label: string, changes: Partial<Rights>) =>
    void change(`${label}, ${many && scope === "all" ? "all pieces" : design.name}`, (recipe) =>
      withDesigns(recipe, many ? scope : "all", design.id, { rights: { ...rights, ...changes } }),
    );
  return (
    <Fold title="Rights" told={{ yes: "may be sold", no: "not for sale", unknown: "unknown" }[rights.may_be_sold]}>
      {many && (
        <Row>
          <span className="text-quiet">Applies to</span>
          <Choice label="Applies to" value={scope} options={SCOPES} onChange={setScope} />
        </Row>
      )}
      <Row>
        <span className="text-quiet">May be sold</span>
        <Choice label="May be sold" value={rights.may_be_sold} options={SOLD} onChange={(may_be_sold) => set(`May be sold: ${may_be_sold}`, { may_be_sold })} />
      </Row>
      <TextField label="Source" value={rights.source} max={300} hint="who drew it, where it was bought" onKeep={(source) => set("Source", { source })} />
      <TextField label="Licence" value={rights.licence} max={120} hint="as it was given to you" onKeep={(licence) => set("Licence", { licence })} />
      <p className="px-3.5 pt-1 text-[12.5px] text-quiet">Orders show unknown rights at Sheet. Local law decides.</p>
    </Fold>
  );
}
