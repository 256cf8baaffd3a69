import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { ArrowDown, ArrowUp, Trash2 } from "lucide-react";
import { type PointerEvent, useEffect, useRef, useState } from "react";

import { call, type Design, previewUrl } from "../../../api/client";
import { LightTable } from "../../../bench/LightTable";
import type { Layer } from "../../../bench/LineKey";
import { useJob } from "../../../job/job";
import { count } from "../../../job/stubs";
import { Button } from "../../../ui/Button";
import { useNotice } from "../../../ui/Notice";
import { Reading, Section } from "../../../ui/Reading";
import { useUnits } from "../../../ui/units";
import { Station } from "../../Station";
import { asksForNames, type Composed, movedBy, nameOf, namesOf, newGround, newWords, type Part } from "./parts";
import { PartFields } from "./PartFields";

const PARTS: Layer = { id: "parts", label: "Parts" };
const PAD = 6;

/** One piece from several parts: placed and joined by computation; the person chooses and looks. */
export function Compose({ design, begun, onBack }: { design: Design | undefined; begun: Part[]; onBack: () => void }) {
  const { job, refresh, select } = useJob();
  const { length, size } = useUnits();
  const tell = useNotice();
  const [parts, setParts] = useState(begun);
  const [chosen, setChosen] = useState(Math.max(0, begun.length - 1));
  const [names, setNames] = useState("");
  const [busy, setBusy] = useState(false);
  const listed = namesOf(names);
  // What is looked at is the first of the list.
  const shown = asksForNames(parts) && listed[0] ? parts.map((part) => (part.kind === "words" ? { ...part, text: part.text.replaceAll("{name}", listed[0]!) } : part)) : parts;
  const { data, error, isFetching } = useQuery({
    queryKey: ["compose", shown],
    enabled: shown.some((part) => part.kind !== "ground"),
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: 60_000,
    queryFn: ({ signal }) => call("post_compose", { signal, body: { parts: shown } }),
  });
  const put = (number: number, changes: Partial<Part>) => setParts((before) => before.map((part, n) => (n === number ? ({ ...part, ...changes } as Part) : part)));
  const add = (part: Part) => {
    setParts([...parts, part]);
    setChosen(parts.length);
  };
  const swap = (number: number, by: number) => {
    const next = [...parts];
    [next[number], next[number + by]] = [next[number + by]!, next[number]!];
    setParts(next);
    setChosen(number + by);
  };
  const addPiece = (id: string) => void call("get_part", { path: { job_id: job.id, design: id } }).then((part) => add({ ...part, y_mm: 0 })).catch(tell);
  const make = async (asNew: boolean) => {
    setBusy(true);
    try {
      const made = await call("post_job_compose", { path: { job_id: job.id }, body: { composition: { parts }, design: asNew ? null : (design?.id ?? null), names: asksForNames(parts) ? listed : [] } });
      refresh();
      if (made.designs[0]) select(made.designs[0]);
      onBack();
    } catch (problem) {
      tell(problem);
    }
    setBusy(false);
  };
  const part = parts[chosen];
  const [left, top, right, bottom] = data?.box ?? [-30, -30, 30, 30];
  const many = asksForNames(parts) && listed.length > 1 ? listed.length : 1;
  const unnamed = asksForNames(parts) && listed.length === 0;
  return (
    <Station
      table={
        <LightTable
          box={{ x: left - PAD, y: top - PAD, width: right - left + 2 * PAD, height: bottom - top + 2 * PAD }}
          subject={`compose ${data ? Math.ceil((right - left) / 12) : 0} ${data ? Math.ceil((bottom - top) / 12) : 0}`}
          label={data ? `${size(right - left, bottom - top)}` : "nothing yet"}
          layers={[PARTS]}
        >
          {() => data && <Drawn parts={parts} composed={data} chosen={chosen} onChoose={setChosen} onMove={(number, dx, dy) => put(number, movedBy(parts[number]!, dx, dy))} />}
        </LightTable>
      }
    >
      <Section title="One piece from several parts">
        <ul aria-label="Parts" className="px-2.5 pb-1">
          {parts.map((each, number) => (
            <li key={number} className={`group flex items-center rounded-md ${number === chosen ? "bg-act-pale" : "hover:bg-paper"}`}>
              <button type="button" aria-pressed={number === chosen} onClick={() => setChosen(number)} className="flex min-w-0 grow items-baseline justify-between gap-2 px-2 py-1 text-left">
                <b className="truncate font-semibold">{nameOf(each)}</b>
                <span className="shrink-0 text-[12px] text-quiet">{each.role === "print" ? "printed only" : each.role === "cut" ? "cut only" : ""}</span>
              </button>
              <button type="button" aria-label={`Earlier: ${nameOf(each)}`} disabled={number === 0} onClick={() => swap(number, -1)} className="rounded p-1 text-quiet hover:bg-card disabled:opacity-25"><ArrowUp size={14} /></button>
              <button type="button" aria-label={`Later: ${nameOf(each)}`} disabled={number === parts.length - 1} onClick={() => swap(number, 1)} className="rounded p-1 text-quiet hover:bg-card disabled:opacity-25"><ArrowDown size={14} /></button>
              <button type="button" aria-label={`Leave out: ${nameOf(each)}`} disabled={parts.length === 1} onClick={() => { setParts(parts.filter((_, n) => n !== number)); setChosen(Math.max(0, number - 1)); }} className="rounded p-1 text-quiet hover:bg-stop-pale hover:text-stop disabled:opacity-25"><Trash2 size={14} /></button>
            </li>
          ))}
        </ul>
        <div className="flex flex-wrap gap-1.5 px-3.5 py-1">
          <Button onClick={() => add(newWords("Words"))}>Add words</Button>
          <Button disabled={parts.some((each) => each.kind === "ground")} onClick={() => add(newGround())}>Add a backing</Button>
          <select aria-label="Add a picture of this job" value="" onChange={(event) => event.target.value && addPiece(event.target.value)} className="min-w-0 max-w-[150px] rounded-md border border-rule bg-paper px-2 py-1 hover:border-act">
            <option value="">Add a picture …</option>
            {(job.recipe.designs ?? []).map((each) => <option key={each.id} value={each.id}>{each.name}</option>)}
          </select>
        </div>
      </Section>
      {part && <PartFields key={`${chosen} ${part.kind}`} part={part} first={chosen === 0} closed={data?.parts.find((each) => each.number === chosen)?.closed ?? 0} onPut={(changes) => put(chosen, changes)} />}
      {asksForNames(parts) && (
        <Section title="A piece for each name">
          <label className="block px-3.5 text-quiet">
            Names, a line each
            <textarea value={names} rows={4} onChange={(event) => setNames(event.target.value)} placeholder={"Ada\nBo"} className="mt-0.5 block w-full rounded border border-rule bg-paper px-2 py-1 text-ink" />
          </label>
        </Section>
      )}
      <Section title="Result">
        {error && <p role="alert" className="px-3.5 pb-1 text-stop">{error.message}</p>}
        {data && (
          <>
            <Reading label="Cut round, longest side">{length(data.longest_mm, 1)}</Reading>
            <Reading label="A line without a border" words>{data.pieces === 1 ? "one piece" : count(data.pieces, "piece")}</Reading>
            {data.pieces > 1 && <p className="px-3.5 pb-1 text-[12.5px] text-look">Letters closed until they touch, a backing, or a border at Cut lines makes it one.</p>}
            {data.lacking && <p className="px-3.5 pb-1 text-stop">No font here has {data.lacking.split("").join(" ")}: take another letter, or a font that has it.</p>}
            {data.small.map((text) => <p key={text} className="px-3.5 pb-1 text-look">“{text}” is too small to read: capitals of {length(1.2, 1)} are the least.</p>)}
          </>
        )}
        <p className="flex flex-wrap items-center gap-1.5 px-3.5 py-2">
          <Button kind="act" disabled={busy || !data || Boolean(error) || unnamed || isFetching} onClick={() => void make(!design)}>{busy ? "Making it …" : many > 1 ? `Make ${many} pieces` : "Make it"}</Button>
          {design && <Button disabled={busy || !data || Boolean(error) || unnamed} onClick={() => void make(true)}>As a new piece</Button>}
          <Button disabled={busy} onClick={onBack}>Cancel</Button>
        </p>
        {unnamed && <p className="px-3.5 pb-1 text-[12.5px] text-quiet">Type the names above: there is a piece for each.</p>}
      </Section>
    </Station>
  );
}

/** The parts as they are placed; each can be dragged. */
function Drawn({ parts, composed, chosen, onChoose, onMove }: { parts: Part[]; composed: Composed; chosen: number; onChoose: (number: number) => void; onMove: (number: number, dx: number, dy: number) => void }) {
  const svg = useRef<SVGGElement>(null);
  const from = useRef<{ number: number; x: number; y: number } | null>(null);
  const [by, setBy] = useState<[number, number]>([0, 0]);
  useEffect(() => setBy([0, 0]), [composed]);
  const place = (event: PointerEvent) => {
    const matrix = svg.current?.getScreenCTM()?.inverse();
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(matrix);
    return [point.x, point.y] as const;
  };
  const down = (number: number) => (event: PointerEvent<SVGGElement>) => {
    if (event.button !== 0) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    const [x, y] = place(event);
    from.current = { number, x, y };
    onChoose(number);
  };
  const move = (event: PointerEvent) => {
    if (!from.current) return;
    const [x, y] = place(event);
    setBy([x - from.current.x, y - from.current.y]);
  };
  const up = () => {
    const began = from.current;
    from.current = null;
    if (began && (by[0] || by[1])) onMove(began.number, by[0], by[1]);
  };
  const arrows: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
  return (
    <g ref={svg}>
      {composed.parts.map((placed) => {
        const part = parts[placed.number];
        if (!part) return null;
        const on = placed.number === chosen;
        const [left, top, right, bottom] = placed.box;
        return (
          <g
            key={placed.number}
            role="button"
            tabIndex={0}
            aria-label={`${nameOf(part)}: drag, or move by arrow keys`}
            aria-pressed={on}
            data-table="still"
            className="cursor-move outline-none"
            transform={on ? `translate(${by[0]} ${by[1]})` : undefined}
            onPointerDown={down(placed.number)}
            onPointerMove={move}
            onPointerUp={up}
            onFocus={() => onChoose(placed.number)}
            onKeyDown={(event) => {
              const arrow = arrows[event.key];
              if (!arrow) return;
              event.preventDefault();
              event.stopPropagation();
              const step = event.shiftKey ? 5 : 1.3;
              onMove(placed.number, arrow[0] * step, arrow[1] * step);
            }}
          >
            <rect x={left} y={top} width={Math.max(0, right - left)} height={Math.max(0, bottom - top)} fill="#fff" fillOpacity="0.001" stroke={on ? "#0f5c57" : part.role === "both" ? "none" : "#8a6a3b"} strokeWidth={on ? 0.3 : 0.25} strokeDasharray={part.role === "both" ? undefined : "1.2 0.8"} />
            {placed.matrix && placed.whole && part.kind === "picture" && (
              <image href={previewUrl(part.picture)} x={placed.whole[0]} y={placed.whole[1]} width={placed.whole[2]} height={placed.whole[3]} transform={`matrix(${placed.matrix.join(" ")})`} preserveAspectRatio="none" opacity={part.role === "cut" ? 0.3 : 1} />
            )}
            {part.kind === "ground" && part.pattern === "fade" && (
              <linearGradient id={`fade${placed.number}`} x1="0" y1="0" x2="0" y2="1"><stop offset="0" stopColor={part.colour} /><stop offset="1" stopColor={part.second ?? "#ffffff"} /></linearGradient>
            )}
            {placed.path && <path d={placed.path} fill={part.kind === "picture" ? "none" : part.kind === "ground" && part.pattern === "fade" ? `url(#fade${placed.number})` : part.colour} opacity={part.role === "cut" ? 0.3 : 1} />}
            {part.kind === "ground" && placed.pattern && <path d={placed.pattern} fill={part.second ?? "#ffffff"} />}
          </g>
        );
      })}
    </g>
  );
}
