import { useEffect, useRef, useState } from "react";

import { type Design, type DesignFacts, previewUrl, type Schemas, urlOf } from "../../api/client";
import type { Hand, Point } from "../../bench/Hand";
import { LightTable } from "../../bench/LightTable";
import { ART } from "../../bench/LineKey";
import { useNotice } from "../../ui/Notice";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { LengthField } from "../../ui/LengthField";
import { Section } from "../../ui/Reading";
import { Station } from "../Station";
import { useMend } from "./useMend";

type Subject = Schemas["SubjectRecipe"];
type Doing = "box" | "keep" | "drop";
const LAYERS = [ART];
const COLOURS = { keep: "#23734a", drop: "#a3301e" };

/** What would go, as a veil; the last answer stays until the next is there. */
function useVeil(artwork: string, subject: Subject) {
  const tell = useNotice();
  const [veil, setVeil] = useState<string | null>(null);
  const told = JSON.stringify(subject);
  useEffect(() => {
    const stop = new AbortController();
    fetch(urlOf("post_subject", { sha256: artwork }), { method: "POST", headers: { "Content-Type": "application/json" }, body: told, signal: stop.signal })
      .then((answer) => (answer.ok ? answer.blob() : Promise.reject(new Error())))
      .then((blob) => setVeil((before) => {
        if (before) URL.revokeObjectURL(before);
        return URL.createObjectURL(blob);
      }))
      .catch((error: unknown) => error instanceof DOMException || tell(error));
    return () => stop.abort();
  }, [artwork, told, tell]);
  return veil;
}

/** A subject cut out of a photo: a box round it, then strokes over what is wrong. */
export function SubjectTable({ design, facts, onBack }: { design: Design; facts: DesignFacts; onBack: () => void }) {
  const { mend, keep } = useMend(design);
  const [across, along] = facts.artwork.came_px as [number, number];
  const longestMm = design.longest_mm ?? 60;
  const mm = longestMm / Math.max(across, along);
  const [subject, setSubject] = useState<Subject>(() => mend.subject ?? { box: null, keep: [], drop: [] });
  const [doing, setDoing] = useState<Doing>(subject.box ? "keep" : "box");
  const [brushMm, setBrushMm] = useState(Math.max(0.6, Math.round(longestMm / 2) / 10));
  const veil = useVeil(design.artwork, subject);
  const path = useRef<Point[]>([]);
  const [drawn, setDrawn] = useState<Point[]>([]);
  const round = (value: number) => Math.round((value / mm) * 10) / 10;
  const strokes = [...(subject.keep ?? []), ...(subject.drop ?? [])].length;
  const hand: Hand = {
    hint: doing === "box" ? "Draw a box round the subject." : doing === "keep" ? "Paint over what to keep." : "Paint over what to remove.",
    cursor: "crosshair",
    onDown: (at) => {
      path.current = [at];
      setDrawn([at]);
    },
    onMove: (at, held) => {
      if (!held || !path.current.length) return;
      path.current = doing === "box" ? [path.current[0]!, at] : [...path.current, at].slice(-1900);
      setDrawn(path.current);
    },
    onUp: () => {
      const points = path.current;
      path.current = [];
      setDrawn([]);
      if (doing === "box") {
        const [a, b] = [points[0], points.at(-1)];
        if (!a || !b || Math.abs(a[0] - b[0]) < 5 * mm || Math.abs(a[1] - b[1]) < 5 * mm) return;
        const box: [number, number, number, number] = [round(Math.min(a[0], b[0])), round(Math.min(a[1], b[1])), round(Math.max(a[0], b[0])), round(Math.max(a[1], b[1]))];
        setSubject((before) => ({ ...before, box }));
        return setDoing("keep");
      }
      if (!points.length) return;
      const stroke = { radius_px: Math.max(0.5, round(brushMm / 2)), points: points.map(([x, y]): [number, number] => [round(x), round(y)]) };
      setSubject((before) => ({ ...before, [doing]: [...(before[doing] ?? []), stroke] }));
    },
    draw: (at, mmPerPx) => doing !== "box" && at && <circle cx={at[0]} cy={at[1]} r={brushMm / 2} fill="none" stroke={COLOURS[doing]} strokeWidth={1.5 * mmPerPx} />,
  };
  const box = drawn.length > 1 && doing === "box" ? [drawn[0]!, drawn.at(-1)!] : null;
  const made = () => void keep("Cut the subject out", { subject, background: "as_is", frame: null }).then(onBack);
  return (
    <Station
      table={
        <LightTable box={{ x: 0, y: 0, width: across * mm, height: along * mm }} subject={`subject ${design.id}`} label={`${design.name} as it came`} layers={LAYERS} hand={hand}>
          {() => (
            <>
              <image href={previewUrl(design.artwork)} width={across * mm} height={along * mm} preserveAspectRatio="none" />
              {veil && <image href={veil} width={across * mm} height={along * mm} preserveAspectRatio="none" />}
              {(["keep", "drop"] as const).map((kind) => (subject[kind] ?? []).map((stroke, n) => (
                <polyline key={`${kind} ${n}`} points={stroke.points.map(([x, y]) => `${x * mm},${y * mm}`).join(" ")} fill="none" stroke={COLOURS[kind]} strokeWidth={0.5} strokeLinecap="round" strokeDasharray={kind === "drop" ? "1.4 1" : undefined} />
              )))}
              {doing !== "box" && drawn.length > 0 && <polyline points={drawn.map((point) => point.join(",")).join(" ")} fill="none" stroke={COLOURS[doing]} strokeOpacity={0.6} strokeWidth={brushMm} strokeLinecap="round" strokeLinejoin="round" />}
              {subject.box && !box && <rect x={subject.box[0] * mm} y={subject.box[1] * mm} width={(subject.box[2] - subject.box[0]) * mm} height={(subject.box[3] - subject.box[1]) * mm} className="line" stroke="#fff" strokeDasharray="4 3" />}
              {box && <rect x={Math.min(box[0]![0], box[1]![0])} y={Math.min(box[0]![1], box[1]![1])} width={Math.abs(box[0]![0] - box[1]![0])} height={Math.abs(box[0]![1] - box[1]![1])} className="line" stroke="#fff" strokeWidth="1.6" />}
            </>
          )}
        </LightTable>
      }
    >
      <Section title="Cut out a subject">
        <p className="px-3.5 pb-1 text-quiet">Draw a box round the subject. What is removed is veiled; correct it with a stroke.</p>
        <div className="px-3.5 py-1">
          <Choice label="Tool" value={doing} options={[{ value: "box", label: "Box" }, { value: "keep", label: "Keep" }, { value: "drop", label: "Remove" }]} onChange={setDoing} />
        </div>
        {doing !== "box" && <LengthField label="Stroke" mm={brushMm} min={0.2} max={60} reach={15} step={0.2} onMove={setBrushMm} onKeep={setBrushMm} />}
        <p className="flex flex-wrap gap-1.5 px-3.5 py-2">
          <Button kind="act" disabled={!subject.box && strokes === 0} onClick={made}>Cut it out</Button>
          {strokes > 0 && <Button onClick={() => setSubject({ ...subject, keep: [], drop: [] })}>Clear strokes</Button>}
          {mend.subject && <Button onClick={() => void keep("Use the whole photo", { subject: null }).then(onBack)}>The whole photo</Button>}
          <Button onClick={onBack}>Cancel</Button>
        </p>
        <p className="px-3.5 text-[12.5px] text-quiet">You can still use eraser and restore brush. Nothing of the photo is lost.</p>
      </Section>
    </Station>
  );
}
