import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { call, type DesignFacts, PLAIN_TONE as PLAIN, sendFile, type StockTone, type Tone, urlOf } from "../../api/client";
import { useJob } from "../../job/job";
import { stockId } from "../../job/useShop";
import { Button } from "../../ui/Button";
import { FileButton } from "../../ui/FileButton";
import { Fold } from "../../ui/Fold";
import { useNotice } from "../../ui/Notice";
import { Row } from "../../ui/Reading";
import { Choice } from "../../ui/Choice";
import { Slide } from "../../ui/Slide";
import { ToneCurve } from "./ToneCurve";

/** The picture through a tone, small, while it is being found. */
export const proofUrl = (of: ToneOf, picture: string, tone: Tone, proof: Proof) =>
  urlOf("get_proof", { ...of, picture }, { ...tone, curve: tone.curve.map((point) => point.join(",")).join(";"), proof: proof !== "screen", gamut: proof === "gamut" });

/** As the screen has it, as it is printed, or with what cannot be printed struck through. */
type Proof = "screen" | "printed" | "gamut";
const PROOFS: { value: Proof; label: string }[] = [
  { value: "screen", label: "On screen" },
  { value: "printed", label: "As printed" },
  { value: "gamut", label: "Lost colours" },
];

/** Which printer, stock and quality a tone belongs to. */
type ToneOf = { printer: string; stock: string; quality: "draft" | "standard" | "best" };

/** How a printer prints colours on this stock: set once, used for every job on it, never baked into a picture. */
export function ToneSection({ facts, onShow }: { facts: DesignFacts; onShow: (url: string | null) => void }) {
  const { job } = useJob();
  const client = useQueryClient();
  const tell = useNotice();
  const of: ToneOf = { printer: job.recipe.sheet?.printer?.id ?? "desk", stock: stockId(job.recipe.sheet), quality: job.recipe.sheet?.quality ?? "standard" };
  const key = ["tone", of.printer, of.stock, of.quality];
  const { data } = useQuery({ queryKey: key, queryFn: () => call("get_tone", { path: of }) });
  const [proof, setProof] = useState<Proof>("screen");
  const tone = data?.tone ?? PLAIN;
  const show = (next: Tone, asPrinted = proof) => onShow(proofUrl(of, facts.artwork.picture, next, asPrinted));
  // One after another, each from what the one before it left: quick keys on two sliders must not undo each other.
  const last = useRef(Promise.resolve());
  const waiting = useRef(0);
  const put = (call: () => Promise<StockTone>) => {
    waiting.current += 1;
    const settled = (kept?: StockTone) => {
      waiting.current -= 1;
      if (waiting.current > 0) return; // somebody has moved on: theirs is to come
      if (kept) client.setQueryData(key, kept);
      else void client.invalidateQueries({ queryKey: key });
      if (kept) show(kept.tone);
    };
    last.current = last.current.then(call).then(settled, (problem: unknown) => { tell(problem); settled(); });
  };
  const keep = (changes: Partial<Tone>) => {
    const before = client.getQueryData<StockTone>(key);
    const next = { ...(before?.tone ?? PLAIN), ...changes };
    if (before) client.setQueryData(key, { ...before, tone: next });
    put(() => call("put_tone", { path: of, body: next }));
  };
  const { data: gamut } = useQuery({
    queryKey: [...key, "gamut", facts.artwork.picture, tone, data?.profile_name],
    enabled: Boolean(data?.profile_name) && proof !== "screen",
    queryFn: ({ signal }) => call("get_gamut", { path: { ...of, picture: facts.artwork.picture }, signal }),
  });
  const plain = !tone.brightness && !tone.contrast && !tone.saturation && tone.curve.length === 0;

  return (
    <Fold title={`Tone on ${job.sheets.stock}`} told={plain ? "as it is" : "set"} onOpen={(open) => (open ? show(tone) : onShow(null))}>
      {(["brightness", "contrast", "saturation"] as const).map((name) => (
        <Slide
          key={name}
          label={name[0]!.toUpperCase() + name.slice(1)}
          min={name === "saturation" ? -100 : -50}
          max={name === "saturation" ? 100 : 50}
          value={tone[name]}
          say={(value) => (value > 0 ? `+${value}` : String(value))}
          onMove={(value) => show({ ...tone, [name]: value })}
          onKeep={(value) => keep({ [name]: value })}
        />
      ))}
      <ToneCurve curve={tone.curve as [number, number][]} onMove={(curve) => show({ ...tone, curve })} onKeep={(curve) => keep({ curve })} />
      <Row>
        <span className="min-w-0 truncate text-quiet">{data?.profile_name ?? "No profile loaded"}</span>
        <span className="flex shrink-0 gap-1.5">
          <FileButton label="Colour profile of the stock" accept=".icc,.icm" onFile={(chosen) => put(() => sendFile("put_profile", of, chosen))}>{data?.profile_name ? "Another" : "Load profile"}</FileButton>
          {data?.profile_name && <Button onClick={() => { setProof("screen"); put(() => call("delete_profile", { path: of })); }}>Without</Button>}
        </span>
      </Row>
      {data?.profile_name && (
        <>
          <Row>
            <Choice
              label="Show colours"
              value={proof}
              options={PROOFS}
              onChange={(next) => {
                setProof(next);
                show(tone, next);
              }}
            />
          </Row>
          {gamut && proof !== "screen" && (
            <p className="px-3.5 pb-1 text-[12.5px] text-quiet">
              {gamut.share_beyond < 0.005 ? "All of its colours can be printed." : `${Math.max(1, Math.round(gamut.share_beyond * 100))} % of it has colours that this printer cannot reach: they come out duller.`}
              {gamut.is_cmyk && " A print shop also gets the file in these four inks."}
            </p>
          )}
        </>
      )}
      <div className="px-3.5 py-1">
        <p className="pb-1 text-[12.5px] text-quiet">Unsure? Print this picture in twelve variants on the stock, let it dry, and choose the one that looks right.</p>
        <div className="flex flex-wrap items-center gap-2">
          <a href={urlOf("get_strip", { ...of, picture: facts.artwork.picture })} download className="rounded-md border border-rule bg-paper px-3 py-1.5 hover:border-act">Tone strip</a>
          <select
            aria-label="Best patch of the strip"
            className="min-w-0 rounded-md border border-rule bg-paper px-2 py-1.5"
            value=""
            onChange={(event) => {
              const number = Number(event.target.value);
              put(() => call("post_patch", { path: of, body: { number } }));
            }}
          >
            <option value="" disabled>Best patch …</option>
            {data?.patches.map((label, index) => <option key={index} value={index + 1}>{`${index + 1}: ${label}`}</option>)}
          </select>
          {!plain && <Button onClick={() => keep(PLAIN)}>As it is</Button>}
        </div>
      </div>
    </Fold>
  );
}
