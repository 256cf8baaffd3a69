import { useQuery } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useRef, useState } from "react";

import { call, type CodeBox, type Labels, sendFile, type TextBox } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { CountField } from "../../ui/CountField";
import { Fold } from "../../ui/Fold";
import { LengthField } from "../../ui/LengthField";
import { useNotice } from "../../ui/Notice";
import { Reading, Row } from "../../ui/Reading";
import { Select } from "../../ui/Select";
import { TextField } from "../../ui/TextField";
import { count } from "../../job/stubs";
import { LabelPreview } from "./LabelPreview";
import { ShortForms } from "./ShortForms";

const FONTS = [
  { value: "text", label: "Text" }, { value: "text-bold", label: "Text, bold" }, { value: "head", label: "Heading" }, { value: "mono", label: "Figures" },
];
const KINDS = [{ value: "qr", label: "QR code" }, { value: "ean13", label: "EAN-13" }, { value: "code128", label: "Code 128" }];
const ALIGNS = [{ value: "left" as const, label: "Left" }, { value: "centre" as const, label: "Middle" }, { value: "right" as const, label: "Right" }];

/** Rows of a list on a piece: texts and codes in boxes, each label another row. */
export function LabelsSection() {
  const { job, selected, facts, change, select } = useJob();
  const tell = useNotice();
  const file = useRef<HTMLInputElement>(null);
  const [pasted, setPasted] = useState("");
  const [box, setBox] = useState(0);
  const [row, setRow] = useState<number | null>(null);
  const designs = job.recipe.designs ?? [];
  const design = selected ?? designs[0];
  const labels = design?.labels ?? null;
  const { data: table } = useQuery({
    queryKey: ["table", labels?.table],
    enabled: Boolean(labels),
    staleTime: Infinity,
    queryFn: () => call("get_table", { path: { table: labels!.table } }),
  });
  const { data: worst } = useQuery({
    queryKey: ["worst", design?.id, design?.longest_mm, design?.artwork, labels],
    enabled: Boolean(labels),
    queryFn: ({ signal }) => call("post_worst", { signal, query: { design: design!.id }, body: job.recipe }),
    placeholderData: (before, of) => (of?.queryKey[1] === design?.id ? before : undefined),
  });
  if (!design || !facts) return null;

  /** A box inside the piece, given in shares of its width and height. */
  const inside = (x: number, y: number, width: number, height: number) => {
    const longest = Math.max(facts.width_mm, facts.height_mm);
    const [across, down] = [facts.width_mm / longest, facts.height_mm / longest];
    return { x: x * across, y: y * down, width: width * across, height: height * down };
  };
  const keep = (label: string, next: Labels | null) =>
    void change(label, (before) => ({ ...before, designs: (before.designs ?? []).map((each) => (each.id === design.id ? { ...each, labels: next } : each)) }));
  const take = (list: File) => {
    void sendFile("post_table", {}, list).then((kept) => {
      const first = kept.columns[0] ?? "";
      const texts: TextBox[] = [{ template: `{${first}}`, ...inside(0.08, 0.12, 0.84, 0.24), colour: "#16211f", font: "text-bold", size_mm: 4, least_mm: 1.4, align: "centre", lines: 1 }];
      keep(`List of ${kept.rows} labels`, labels ? { ...labels, table: kept.table } : { table: kept.table, texts, codes: [], shorts: [], first: 1 });
      setPasted("");
    }, tell);
  };
  const texts = labels?.texts ?? [];
  const codes = labels?.codes ?? [];
  const at = Math.min(box, Math.max(0, texts.length + codes.length - 1));
  const text = at < texts.length ? texts[at] : undefined;
  const code = at >= texts.length ? codes[at - texts.length] : undefined;
  const set = (label: string, changes: Partial<TextBox> | Partial<CodeBox>) =>
    labels &&
    keep(label, {
      ...labels,
      texts: texts.map((each, n) => (n === at ? { ...each, ...(changes as Partial<TextBox>) } : each)),
      codes: codes.map((each, n) => (n + texts.length === at ? { ...each, ...(changes as Partial<CodeBox>) } : each)),
    });
  const remove = () => {
    if (!labels) return;
    keep("Remove a box", { ...labels, texts: texts.filter((_, n) => n !== at), codes: codes.filter((_, n) => n + texts.length !== at) });
    setBox(0);
  };
  const add = (kind: "text" | "qr") => {
    if (!labels || !table) return;
    const template = `{${table.columns[Math.min(texts.length, table.columns.length - 1)]}}`;
    if (kind === "text") {
      keep("Another text", { ...labels, texts: [...texts, { template, ...inside(0.08, 0.4, 0.84, 0.16), colour: "#16211f", font: "text", size_mm: 3, least_mm: 1.4, align: "centre", lines: 1 }] });
      setBox(texts.length);
    } else {
      keep("A code", { ...labels, codes: [...codes, { template, ...inside(0.6, 0.5, 0.34, 0.44), colour: "#000000", kind: "qr" }] });
      setBox(texts.length + codes.length);
    }
  };

  return (
    <Fold title="Labels from a list" told={labels ? count(worst?.rows ?? table?.rows ?? 0, "label") : undefined} open={Boolean(labels)}>
      {designs.length > 1 && <Select label="On piece" value={design.id} options={designs.map((each) => ({ value: each.id, label: each.name }))} onChange={select} />}
      <div className="px-3.5 pb-1">
        <textarea
          aria-label="Paste a list"
          rows={2}
          value={pasted}
          placeholder={labels ? "Paste another list here" : "Paste a list here: a row of names, then a row a label"}
          onChange={(event) => setPasted(event.target.value)}
          onDrop={(event) => {
            const dropped = event.dataTransfer.files[0];
            if (!dropped) return;
            event.preventDefault();
            event.stopPropagation();
            take(dropped);
          }}
          className="figure w-full rounded border border-rule bg-paper px-2 py-1 text-[12px] focus:border-act"
        />
        <p className="flex flex-wrap gap-1.5">
          <Button disabled={!pasted.trim()} onClick={() => take(new File([pasted], "list.csv", { type: "text/csv" }))}>Use this list</Button>
          <Button onClick={() => file.current?.click()}>Choose a CSV</Button>
          {labels && <Button kind="stop" onClick={() => keep("No list", null)}>No list</Button>}
        </p>
        <input ref={file} type="file" accept=".csv,.tsv,.txt,text/csv,text/plain" aria-label="A list" className="hidden" onChange={(event) => { const chosen = event.target.files?.[0]; event.target.value = ""; if (chosen) take(chosen); }} />
      </div>
      {labels && table && (
        <>
          <p className="px-3.5 pb-1 text-[12.5px] text-quiet">Columns: {table.columns.map((name) => `{${name}}`).join(" ")} and {"{#}"} for the number.</p>
          <LabelPreview design={design} facts={facts} labels={labels} painted={(worst?.worst.find((each) => each.row === row) ?? worst?.worst[0])?.painted ?? []} chosen={at} onChoose={setBox} onKeep={(place) => set("Move a box", place)} />
          <p className="flex flex-wrap gap-1.5 px-3.5 py-1">
            <Button onClick={() => add("text")}>Add a text</Button>
            <Button onClick={() => add("qr")}>Add a code</Button>
            {(text ?? code) && <Button kind="stop" aria-label="Remove this box" onClick={remove}><Trash2 size={14} /></Button>}
          </p>
          {(text ?? code) && <TextField label={code ? "The code says" : "The text says"} value={(text ?? code)!.template} max={400} onKeep={(template) => set("What it says", { template })} />}
          {text && (
            <>
              <Select label="Font" value={text.font ?? "text-bold"} options={FONTS} onChange={(font) => set("Font", { font: font as TextBox["font"] })} />
              <LengthField label="Capital height" mm={text.size_mm ?? 4} min={0.5} max={60} reach={15} onKeep={(mm) => set("Height of the text", { size_mm: mm })} />
              <LengthField label="Minimum height" mm={text.least_mm ?? 1.4} min={0.5} max={60} reach={6} onKeep={(mm) => set("Least height", { least_mm: mm })} />
              <CountField label="Maximum lines" value={text.lines ?? 1} min={1} max={6} onKeep={(lines) => set("Lines of the text", { lines })} />
              <Row>
                <span className="text-quiet">Stands</span>
                <Choice label="Aligned" value={text.align ?? "centre"} options={ALIGNS} onChange={(align) => set("How it is aligned", { align })} />
              </Row>
            </>
          )}
          {code && <Select label="Kind of code" value={code.kind ?? "qr"} options={KINDS} onChange={(kind) => set("Kind of code", { kind: kind as CodeBox["kind"] })} />}
          <CountField label="First number" value={labels.first ?? 1} min={0} max={1_000_000_000} onKeep={(first) => keep(`Numbers from ${first}`, { ...labels, first })} />
          <ShortForms shorts={labels.shorts ?? []} onKeep={(shorts) => keep("Short forms", { ...labels, shorts })} />
          {worst && (
            <>
              <Reading label="Shortened">{worst.shortened}</Reading>
              <Reading label="Do not fit">{worst.unfit}</Reading>
              <ul aria-label="Worst rows" className="px-3.5 text-[12.5px]">
                {worst.worst.map((each) => (
                  <li key={each.row}>
                    <button type="button" title="Show this row above" aria-pressed={each.row === (row ?? worst.worst[0]?.row)} onClick={() => setRow(each.row)} className={`text-left hover:underline aria-pressed:font-semibold ${each.problem ? "text-stop" : "text-quiet"}`}>
                      Row {each.row}: {each.problem ?? `${each.size_mm.toFixed(1)} mm high${each.shortened ? ", shortened" : ""}`}
                    </button>
                  </li>
                ))}
              </ul>
            </>
          )}
        </>
      )}
    </Fold>
  );
}
