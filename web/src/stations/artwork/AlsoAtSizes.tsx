import { useState } from "react";

import type { Design } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { useUnits } from "../../ui/units";

/** The same piece at further sizes, each with lines of its own; borders stay as they are in mm. */
export function AlsoAtSizes({ design }: { design: Design }) {
  const { change } = useJob();
  const { unit, toMm, length } = useUnits();
  const [text, setText] = useState("");
  const [fault, setFault] = useState("");
  const add = () => {
    const sizes = [...new Set(text.split(/[\s;]+|,\s+/).filter(Boolean).map((each) => toMm(Number(each.replace(",", ".")))))];
    if (sizes.length === 0 || sizes.some((mm) => !(mm >= 5 && mm <= 400))) return setFault("Type sizes such as 40 25, each from 5 to 400 mm.");
    setFault("");
    setText("");
    void change(`${design.name} at ${sizes.length === 1 ? "another size" : `${sizes.length} more sizes`}`, (recipe) => {
      const there = recipe.designs ?? [];
      const last = Math.max(0, ...there.map(({ id }) => Number(/^d(\d+)$/.exec(id)?.[1] ?? 0)));
      const more = sizes.map((mm, n) => ({ ...design, id: `d${last + n + 1}`, name: `${design.name}, ${length(mm, 0)}`.slice(0, 120), longest_mm: mm }));
      return { ...recipe, designs: [...there, ...more].slice(0, 60) };
    });
  };
  return (
    <form className="px-3.5 py-1" onSubmit={(event) => { event.preventDefault(); add(); }}>
      <label className="flex items-center gap-2 text-quiet">
        Also at, {unit}
        <input value={text} onChange={(event) => setText(event.target.value)} placeholder="40 25" aria-invalid={fault !== ""} className="figure min-w-0 grow rounded border border-rule bg-paper px-2 py-0.5 text-[13px] text-ink" />
        <Button type="submit">Add</Button>
      </label>
      {fault && <p role="alert" className="text-[12.5px] text-stop">{fault}</p>}
    </form>
  );
}
