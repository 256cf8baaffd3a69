import { useQuery, useQueryClient } from "@tanstack/react-query";

import { call, sendFile } from "../../../api/client";
import { Choice } from "../../../ui/Choice";
import { ColourField } from "../../../ui/ColourField";
import { FileButton } from "../../../ui/FileButton";
import { LengthField } from "../../../ui/LengthField";
import { useNotice } from "../../../ui/Notice";
import { Row, Section } from "../../../ui/Reading";
import { Select } from "../../../ui/Select";
import { Slide } from "../../../ui/Slide";
import type { Ground, Part, Words } from "./parts";

const PLACES: { value: NonNullable<Words["place"]>; label: string }[] = [
  { value: "under", label: "under it" },
  { value: "over", label: "over it" },
  { value: "on", label: "on its middle" },
  { value: "round", label: "round its top" },
  { value: "ring", label: "round its bottom" },
  { value: "outline", label: "along its outline" },
];
const ROLES: { value: NonNullable<Part["role"]>; label: string; title: string }[] = [
  { value: "both", label: "Printed and cut", title: "The cut line goes round it" },
  { value: "print", label: "Printed only", title: "The cut line ignores it" },
  { value: "cut", label: "Cut only", title: "The cut line goes round it, and it is not printed" },
];

/** What can be said of a part. */
export function PartFields({ part, first, closed, onPut }: { part: Part; first: boolean; closed: number; onPut: (changes: Partial<Part>) => void }) {
  return (
    <Section title={part.kind === "words" ? "Words" : part.kind === "picture" ? "Picture" : "Ground"}>
      {part.kind === "words" && <WordsFields part={part} first={first} closed={closed} onPut={onPut} />}
      {part.kind === "picture" && <LengthField label="Longest side" mm={part.longest_mm ?? 50} min={3} max={400} from={10} reach={150} onKeep={(longest_mm) => onPut({ longest_mm })} />}
      {part.kind === "ground" && <GroundFields part={part} onPut={onPut} />}
      <Slide label="Rotation" value={part.turn_deg ?? 0} min={-180} max={180} step={1} say={(deg) => `${deg}°`} onKeep={(turn_deg) => onPut({ turn_deg })} />
      <div className="px-3.5 py-1"><Choice label="Printed or cut" value={part.role ?? "both"} options={ROLES} onChange={(role) => onPut({ role })} /></div>
      {((part.x_mm ?? 0) !== 0 || (part.y_mm ?? 0) !== 0) && (
        <p className="px-3.5 py-1"><button type="button" className="font-semibold text-act underline underline-offset-2" onClick={() => onPut({ x_mm: 0, y_mm: 0 })}>Reset position</button></p>
      )}
    </Section>
  );
}

function WordsFields({ part, first, closed, onPut }: { part: Words; first: boolean; closed: number; onPut: (changes: Partial<Words>) => void }) {
  const bent = part.arc_mm != null;
  const straight = ["under", "over", "on"].includes(part.place ?? "under");
  return (
    <>
      <label className="block px-3.5 py-1 text-quiet">
        Text, in several lines if it has some; {"{name}"} for a list of names
        <textarea value={part.text} rows={2} maxLength={200} onChange={(event) => event.target.value && onPut({ text: event.target.value })} className="mt-0.5 block w-full rounded border border-rule bg-paper px-2 py-1 text-ink" />
      </label>
      <FontChoice value={part.font ?? "head"} onPut={(font) => onPut({ font })} />
      <LengthField label="Height of capitals" mm={part.size_mm ?? 6} min={0.8} max={200} from={1} reach={40} onKeep={(size_mm) => onPut({ size_mm })} />
      {!first && <Select label="Position" value={part.place ?? "under"} options={PLACES} onChange={(place) => onPut({ place: place as Words["place"] })} />}
      {!first && part.place !== "on" && <LengthField label="Gap" mm={part.gap_mm ?? 1.5} min={-60} max={60} from={-5} reach={20} onKeep={(gap_mm) => onPut({ gap_mm })} />}
      <Row>
        <span className="text-quiet">Letters</span>
        <Choice label="Letters" value={part.close ?? "no"} options={[{ value: "no", label: "Apart" }, { value: "even", label: "Touch, evenly" }, { value: "pair", label: "Touch, each" }]} onChange={(close) => onPut({ close })} />
      </Row>
      {part.close === "no" || part.close === undefined ? (
        <Slide label="Between letters" value={part.tracking ?? 0} min={-0.3} max={1} step={0.01} say={(share) => `${Math.round(share * 100)} % of a capital`} onKeep={(tracking) => onPut({ tracking })} />
      ) : (
        closed > 0 && <p className="px-3.5 pb-1 text-[12.5px] text-quiet">Up to {Math.round(closed * 100)} % of a capital closer; dots and marks are brought to their letters.</p>
      )}
      {straight && (
        <Row>
          <span className="text-quiet">Baseline</span>
          <Choice label="Baseline" value={bent ? ((part.arc_mm ?? 0) > 0 ? "up" : "down") : "straight"} options={[{ value: "straight", label: "Straight" }, { value: "up", label: "Arched" }, { value: "down", label: "Sagging" }]} onChange={(way) => onPut({ arc_mm: way === "straight" ? null : (way === "up" ? 1 : -1) * Math.abs(part.arc_mm ?? 40) })} />
        </Row>
      )}
      {straight && bent && <LengthField label="Radius of the arc" mm={Math.abs(part.arc_mm ?? 40)} min={3} max={2000} from={5} reach={150} onKeep={(mm) => onPut({ arc_mm: Math.sign(part.arc_mm ?? 1) * mm })} />}
      {part.text.includes("\n") && (
        <>
          <Slide label="Line spacing" value={part.leading ?? 1.6} min={0.8} max={3} step={0.05} say={(share) => `${share.toFixed(2)} capitals`} onKeep={(leading) => onPut({ leading })} />
          <Row>
            <span className="text-quiet">Lines</span>
            <Choice label="Lines" value={part.align ?? "centre"} options={[{ value: "left", label: "Left" }, { value: "centre", label: "Middle" }, { value: "right", label: "Right" }]} onChange={(align) => onPut({ align })} />
          </Row>
        </>
      )}
      <ColourField label="Colour" value={part.colour ?? "#16211f"} onKeep={(colour) => onPut({ colour })} />
    </>
  );
}

function FontChoice({ value, onPut }: { value: string; onPut: (font: string) => void }) {
  const client = useQueryClient();
  const tell = useNotice();
  const { data: fonts } = useQuery({ queryKey: ["fonts"], queryFn: () => call("get_fonts", {}), staleTime: 60_000 });
  const own = fonts?.find((font) => font.key === value && font.own);
  return (
    <>
      <Select label="Font" value={value} options={(fonts ?? []).map((font) => ({ value: font.key, label: font.own ? `${font.name} (own)` : font.name }))} onChange={onPut} />
      {own && <p className="px-3.5 text-[12.5px] text-quiet">Its maker says: {own.rights}.</p>}
      <div className="px-3.5 py-1">
        <FileButton
          label="A font of your own"
          accept=".ttf,.otf,.woff2,font/*"
          onFile={(file) =>
            void sendFile("post_font", {}, file)
              .then((now) => {
                const before = new Set((fonts ?? []).map((font) => font.key));
                client.setQueryData(["fonts"], now);
                const added = now.find((font) => !before.has(font.key));
                if (added) onPut(added.key);
              })
              .catch(tell)
          }
        >
          A font of your own …
        </FileButton>
      </div>
    </>
  );
}

function GroundFields({ part, onPut }: { part: Ground; onPut: (changes: Partial<Ground>) => void }) {
  const pattern = part.pattern ?? "none";
  return (
    <>
      <div className="px-3.5 py-1"><Choice label="Shape" value={part.shape ?? "circle"} options={[{ value: "circle", label: "Circle" }, { value: "ellipse", label: "Ellipse" }, { value: "rectangle", label: "Box" }, { value: "rounded", label: "Rounded box" }]} onChange={(shape) => onPut({ shape })} /></div>
      <LengthField label="Margin" mm={part.margin_mm ?? 4} min={-40} max={100} from={0} reach={20} onKeep={(margin_mm) => onPut({ margin_mm })} />
      {part.shape === "rounded" && <LengthField label="Corner radius" mm={part.radius_mm ?? 4} min={0} max={100} reach={30} onKeep={(radius_mm) => onPut({ radius_mm })} />}
      <ColourField label="Colour" value={part.colour ?? "#cfe3dd"} onKeep={(colour) => onPut({ colour })} />
      <Select label="Pattern" value={pattern} options={[{ value: "none", label: "none" }, { value: "fade", label: "fades downwards" }, { value: "dots", label: "dots" }, { value: "stripes", label: "stripes" }, { value: "checks", label: "checks" }]} onChange={(next) => onPut({ pattern: next as Ground["pattern"], second: part.second ?? "#ffffff" })} />
      {pattern !== "none" && <ColourField label="Second colour" value={part.second ?? "#ffffff"} onKeep={(second) => onPut({ second })} />}
      {pattern !== "none" && pattern !== "fade" && <LengthField label="Size of the pattern" mm={part.pattern_mm ?? 5} min={0.5} max={60} from={1} reach={25} onKeep={(pattern_mm) => onPut({ pattern_mm })} />}
    </>
  );
}
