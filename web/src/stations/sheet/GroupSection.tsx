import { useJob } from "../../job/job";
import { Fold } from "../../ui/Fold";
import { Select } from "../../ui/Select";
import { count } from "../../job/stubs";

const GROUPS = ["", "A", "B", "C", "D"].map((value) => ({ value, label: value ? `Group ${value}` : "On its own" }));

/** Pieces that go together stand together, wherever they stand. */
export function GroupSection() {
  const { job, change } = useJob();
  const designs = job.recipe.designs ?? [];
  if (designs.length < 2) return null;
  const groups = new Set(designs.flatMap((design) => (design.group ? [design.group] : [])));
  return (
    <Fold title="Kept together" told={groups.size ? count(groups.size, "group") : undefined}>
      {designs.map((design) => (
        <Select
          key={design.id}
          label={design.name}
          value={design.group ?? ""}
          options={GROUPS}
          onChange={(group) =>
            void change(group ? `${design.name} in group ${group}` : `${design.name} on its own`, (before) => ({
              ...before,
              designs: (before.designs ?? []).map((each) => (each.id === design.id ? { ...each, group } : each)),
            }))
          }
        />
      ))}
      <p className="px-3.5 pb-1 text-[12.5px] text-quiet">One of each of a group stands side by side. Places set by hand and locked ones come first.</p>
    </Fold>
  );
}
