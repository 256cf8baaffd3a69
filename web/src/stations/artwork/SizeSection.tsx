import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { useState } from "react";

import { call, type Design, type DesignFacts, type SizeByUse } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { LengthField } from "../../ui/LengthField";
import { useNotice } from "../../ui/Notice";
import { Reading, Row, Section } from "../../ui/Reading";
import { useUnits } from "../../ui/units";
import { SCOPES, useScope, withDesigns } from "../scope";
import { cropToBox } from "./crop";
import { SizesDialog } from "./SizesDialog";
import { useMend } from "./useMend";

type Side = "longest" | "width" | "height";
const SIDES = [
  { value: "longest" as const, label: "Longest" },
  { value: "width" as const, label: "Width" },
  { value: "height" as const, label: "Height" },
];
const KINDS = [
  { value: "photograph" as const, label: "Photo" },
  { value: "drawing" as const, label: "Drawing" },
  { value: "line" as const, label: "Line, type" },
];

const within = (mm: number) => mm >= 5 && mm <= 400;

/** How large the piece is, by one side or by use, and whether its pixels are enough for that. */
export function SizeSection({ design, facts }: { design: Design; facts: DesignFacts }) {
  const { job, change } = useJob();
  const { length, size } = useUnits();
  const { mend, keep } = useMend(design);
  const [scope, setScope] = useScope("one");
  const [side, setSide] = useState<Side>("longest");
  const many = (job.recipe.designs ?? []).length > 1;
  const of = { longest: Math.max(facts.width_mm, facts.height_mm), width: facts.width_mm, height: facts.height_mm };
  const longest = design.longest_mm ?? 60;
  const own = facts.artwork.own_mm && within(Math.max(...facts.artwork.own_mm)) ? facts.artwork.own_mm : null;
  const setLongest = (mm: number) =>
    void change(`${scope === "all" && many ? "All pieces" : design.name} ${length(mm, 1)}`, (recipe) =>
      withDesigns(recipe, many ? scope : "all", design.id, { longest_mm: Math.min(400, Math.max(5, Math.round(mm * 1000) / 1000)) }),
    );
  const use = (wanted: SizeByUse) => {
    if (wanted.side !== "box") return setLongest((longest * wanted.mm) / of[wanted.side]);
    const box: [number, number] = [wanted.mm, wanted.height_mm ?? wanted.mm];
    void keep(`${wanted.use} ${size(box[0], box[1], 0)}`, { crop: cropToBox(facts.artwork.came_px as [number, number], box) }, { longest_mm: Math.max(...box) });
  };
  const kind = design.kind ?? facts.artwork.kind;
  const setKind = (next: "photograph" | "drawing" | "line") =>
    void change(`${design.name} is ${next}`, (recipe) => withDesigns(recipe, "one", design.id, { kind: next === facts.artwork.kind ? null : next }));

  return (
    <Section title={design.name}>
      {many && (
        <Row>
          <span className="text-quiet">Size for</span>
          <Choice label="Size for" value={scope} options={SCOPES} onChange={setScope} />
        </Row>
      )}
      <Row>
        <Choice label="Size by" value={side} options={SIDES} onChange={setSide} />
        <ByUse onUse={use} />
      </Row>
      <LengthField
        label={{ longest: "Longest side", width: "Width", height: "Height" }[side]}
        mm={Math.round(of[side] * 1000) / 1000}
        min={(5 * of[side]) / of.longest}
        max={(400 * of[side]) / of.longest}
        reach={200}
        step={0.5}
        onKeep={(mm) => setLongest((longest * mm) / of[side])}
      />
      <Reading label="Outline">{size(facts.width_mm, facts.height_mm)}</Reading>
      {own && (
        <Row>
          <span className="text-quiet" title="The size that the file states">True size</span>
          <span className="flex items-center gap-2">
            <span className="figure text-[12.5px]">{size(own[0], own[1])}</span>
            {Math.abs(Math.max(...own) - of.longest) < 0.005 ? <span className="text-[12.5px] text-quiet">in use</span> : <Button onClick={() => setLongest(Math.max(...own))}>Use it</Button>}
          </span>
        </Row>
      )}
      <Reading label="Picture">{`${facts.artwork.came_px[0]} × ${facts.artwork.came_px[1]} px`}</Reading>
      <Reading label="Resolution at this size">{facts.artwork.in_curves ? "drawn in curves" : `${Math.round(facts.ppi)} ppi`}</Reading>
      {!facts.artwork.in_curves && (
        <>
          <Row>
            <span className="text-quiet" title={design.kind ? "Set by you" : "Detected in the picture"}>Kind of art</span>
            <Choice label="Kind of art" value={kind} options={KINDS} onChange={setKind} />
          </Row>
          <Row>
            <span className="text-quiet">Enlarge</span>
            <Choice
              label="Enlarge"
              value={String(mend.enlarge)}
              options={["1", "2", "3", "4"].map((times) => ({ value: times, label: times === "1" ? "No" : `${times}×` }))}
              onChange={(times) => void keep(times === "1" ? "Not enlarged" : `Enlarged ${times} times`, { enlarge: Number(times) })}
            />
          </Row>
          {mend.enlarge > 1 && (
            <Row>
              <span className="text-quiet">Edges</span>
              <Choice label="Edges" value={mend.edges ?? "smooth"} options={[{ value: "smooth", label: "Smooth", title: "For photos and soft art" }, { value: "sharp", label: "Sharp", title: "For flat drawings: no halos" }]} onChange={(edges) => void keep(edges === "sharp" ? "Sharp edges" : "Smooth edges", { edges })} />
            </Row>
          )}
          {mend.enlarge > 1 && (
            <p className="px-3.5 pb-1 text-[12.5px] text-quiet">
              Enlarging by Lanczos makes edges smoother. It adds no detail: {Math.round(facts.ppi)} ppi is what the picture holds.
            </p>
          )}
        </>
      )}
    </Section>
  );
}

function ByUse({ onUse }: { onUse: (size: SizeByUse) => void }) {
  const { length, size } = useUnits();
  const client = useQueryClient();
  const tell = useNotice();
  const [open, setOpen] = useState(false);
  const [editing, setEditing] = useState(false);
  const { data: sizes = [] } = useQuery({ queryKey: ["sizes"], queryFn: () => call("get_sizes", {}) });
  return (
    <>
      <Popover.Root open={open} onOpenChange={setOpen}>
        <Popover.Trigger asChild><Button>By use</Button></Popover.Trigger>
        <Popover.Portal>
          <Popover.Content align="end" sideOffset={4} className="fade z-40 w-[260px] rounded-md border border-rule bg-card p-1.5 shadow-xl">
            <ul aria-label="Sizes by use">
              {sizes.map((each) => (
                <li key={each.use}>
                  <button
                    type="button"
                    className="flex w-full justify-between gap-3 rounded px-2 py-1 text-left hover:bg-act-pale"
                    onClick={() => {
                      setOpen(false);
                      onUse(each);
                    }}
                  >
                    {each.use}
                    <span className="figure text-[12px] text-quiet">
                      {each.side === "box" ? size(each.mm, each.height_mm ?? each.mm, 0) : `${each.side} ${length(each.mm, 0)}`}
                    </span>
                  </button>
                </li>
              ))}
            </ul>
            <button type="button" className="mt-1 px-2 py-1 text-act underline underline-offset-2" onClick={() => { setOpen(false); setEditing(true); }}>
              Edit this list
            </button>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      {editing && (
        <SizesDialog
          sizes={sizes}
          onClose={() => setEditing(false)}
          onKeep={(next) =>
            call("put_sizes", { body: next }).then(
              (kept) => {
                client.setQueryData(["sizes"], kept);
                setEditing(false);
              },
              tell,
            )
          }
        />
      )}
    </>
  );
}
