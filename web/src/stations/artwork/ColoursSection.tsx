import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";

import { call, type Design, type DesignFacts, type Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { ColourField } from "../../ui/ColourField";
import { CountField } from "../../ui/CountField";
import { Fold } from "../../ui/Fold";
import { useMend } from "./useMend";

type Recolour = Schemas["RecolourRecipe"];
const AS_IT_IS: Recolour = { exchanges: [], most: null, form: "as_is", colour: "#16211f", light: 0.85 };

/** The colours of a drawing by area, exchanged, fewer, or as one form. */
export function ColoursSection({ design, facts }: { design: Design; facts: DesignFacts }) {
  const { mend, keep } = useMend(design);
  const [open, setOpen] = useState(false);
  const now: Recolour = { ...AS_IT_IS, ...mend.recolour };
  // The palette is that of the picture before its colours were exchanged: what is exchanged stays in the list.
  const [picture, setPicture] = useState(facts.artwork.picture);
  const recoloured = Boolean(mend.recolour);
  useEffect(() => {
    if (!recoloured) setPicture(facts.artwork.picture);
  }, [recoloured, facts.artwork.picture]);
  const { data: palette } = useQuery({ queryKey: ["palette", picture], enabled: open, staleTime: Infinity, queryFn: () => call("get_palette", { path: { picture } }) });
  const put = (label: string, changes: Partial<Recolour>) => {
    const next = { ...now, ...changes };
    const nothing = next.form === "as_is" && next.most === null && next.exchanges!.length === 0;
    void keep(label, { recolour: nothing ? null : next });
  };
  const exchanged = (old: string) => now.exchanges!.find((each) => each.old === old)?.new ?? old;
  const exchange = (old: string, next: string) => {
    const others = now.exchanges!.filter((each) => each.old !== old);
    put("Replace a colour", { exchanges: next === old ? others : [...others, { old, new: next }] });
  };
  return (
    <Fold title="Colours" told={recoloured ? "exchanged" : palette ? `${palette.length}` : "original"} onOpen={setOpen}>
      <div className="px-3.5 py-1">
        <Choice label="Form" value={now.form ?? "as_is"} options={[{ value: "as_is", label: "As it is" }, { value: "one", label: "One colour" }, { value: "inverted", label: "Inverted" }]} onChange={(form) => put("Colour mode", { form })} />
      </div>
      {now.form === "one" && <ColourField label="The one colour" value={now.colour ?? "#16211f"} onKeep={(colour) => put("The one colour", { colour })} />}
      {now.form === "as_is" && palette && (
        <>
          <ul aria-label="Palette" className="max-h-52 overflow-y-auto px-3.5 py-1">
            {palette.map(({ colour, share }) => (
              <li key={colour} className="flex items-center gap-2 py-0.5">
                <span aria-hidden className="size-6 shrink-0 rounded border border-rule" style={{ background: colour }} />
                <span className="figure text-[12px]">{colour}</span>
                <span className="figure grow text-right text-[12px] text-quiet">{(share * 100).toFixed(share < 0.01 ? 1 : 0)} %</span>
                <Swatch label={`${colour} becomes`} value={exchanged(colour)} onKeep={(next) => exchange(colour, next)} />
              </li>
            ))}
          </ul>
          {palette.length > 1 && <CountField label="Most colours" value={now.most ?? palette.length} min={1} max={palette.length} onKeep={(most) => put("Fewer colours", { most: most >= palette.length ? null : most })} />}
        </>
      )}
      {recoloured && <p className="px-3.5 py-1"><Button onClick={() => void keep("Original colours", { recolour: null })}>Original</Button></p>}
    </Fold>
  );
}

function Swatch({ label, value, onKeep }: { label: string; value: string; onKeep: (colour: string) => void }) {
  const [now, setNow] = useState(value);
  useEffect(() => setNow(value), [value]);
  useEffect(() => {
    if (now === value) return;
    // Choosers do not say when they are closed.
    const later = setTimeout(() => onKeep(now), 500);
    return () => clearTimeout(later);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [now]);
  return <input type="color" aria-label={label} title={label} value={now} onChange={(event) => setNow(event.target.value)} className="h-7 w-10 cursor-pointer rounded border border-rule bg-paper p-0.5" />;
}
