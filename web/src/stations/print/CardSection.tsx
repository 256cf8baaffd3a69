import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Check } from "lucide-react";

import { call, type Schemas, urlOf } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { CountField } from "../../ui/CountField";
import { Fold } from "../../ui/Fold";
import { useNotice } from "../../ui/Notice";
import { Reading } from "../../ui/Reading";
import { Select } from "../../ui/Select";
import { TextField } from "../../ui/TextField";
import { Toggle } from "../../ui/Toggle";
import { useInTurn } from "../../ui/useInTurn";
import { useVersioned } from "../../job/useVersioned";
import { useUnits } from "../../ui/units";
import type { Way } from "./way";

type Card = Schemas["SetupCard"];

const TRAYS = [
  { value: "unsaid", label: "not entered" },
  { value: "front", label: "front, round a bend" },
  { value: "rear", label: "rear, straight path" },
  { value: "roll", label: "roll" },
];
const SURFACES = [
  { value: "unsaid", label: "not entered" },
  { value: "matt", label: "matt" },
  { value: "satin", label: "satin" },
  { value: "gloss", label: "gloss" },
];
const SIDES = [
  { value: "unsaid", label: "not tried" },
  { value: "up", label: "sticker face up" },
  { value: "down", label: "sticker face down" },
];
const LINK = "rounded-md border border-rule bg-paper px-2.5 py-1 text-[13px] hover:border-act";

export const cardKey = (job: number, sheet: { printer?: { id: string } | null; paper?: { id: string } | null } | undefined) => ["card", job, sheet?.printer?.id, sheet?.paper?.id];

/** The card of this job's printer and stock, and what can be done with it. */
export function useCard() {
  const { job } = useJob();
  const tell = useNotice();
  const client = useQueryClient();
  const path = { job_id: job.id };
  const key = [...cardKey(job.id, job.recipe.sheet), job.revision];
  const { data } = useQuery({ queryKey: key, queryFn: ({ signal }) => call("get_card", { path, signal }), retry: false });
  const inTurn = useInTurn();
  const versioned = useVersioned();
  const put = (ask: (now: Schemas["SetUpView"]) => Promise<Schemas["SetUpView"] | null>) =>
    inTurn(() => {
      const now = client.getQueryData<Schemas["SetUpView"]>(key);
      const show = (view: Schemas["SetUpView"] | null) => (view ? client.setQueryData(key, view) : client.invalidateQueries({ queryKey: key }));
      return now ? ask(now).then(show).catch(tell) : Promise.resolve();
    });
  return {
    view: data,
    change: (some: Partial<Card>) => data && put(({ card, version }) => versioned({ ...card, ...some }, version, (ifMatch) => call("put_card", { path, body: { ...card, ...some }, ifMatch }))),
    tick: () => put(() => call("post_tick", { path })),
  };
}

/** How the printer is set for this stock, shown where one prints: until it is ticked for the day, and beside one's own dialog. */
export function CardSection({ way }: { way: Way }) {
  const { job } = useJob();
  const { size } = useUnits();
  const { view, change, tick } = useCard();
  if (!view) return null;
  const { card, film_box_mm: film } = view;
  const path = { job_id: job.id };
  const { sheets } = job;
  return (
    <Fold title="Printer settings" open={way === "own" || !view.ticked || view.findings.length > 0} told={view.findings.length ? `${view.findings.length} to look at` : view.ticked ? "set today" : card.media || "not filled in"}>
      <p className="px-3.5 pb-1 text-[12.5px] text-quiet">For {view.stock} on {view.printer}, in the words of the printer&rsquo;s own dialog. Saved for every job on this stock.</p>
      <TextField label="Media type" value={card.media ?? ""} hint="as the printer calls it" max={60} onKeep={(media) => change({ media })} />
      <Select label="Meant for" value={card.surface ?? "unsaid"} options={SURFACES} onChange={(surface) => change({ surface: surface as Card["surface"] })} />
      <TextField label="Quality" value={card.quality ?? ""} hint="the better one, where it is as fast" max={60} onKeep={(quality) => change({ quality })} />
      <Select label="Feed from" value={card.tray ?? "unsaid"} options={TRAYS} onChange={(tray) => change({ tray: tray as Card["tray"] })} />
      <Select label="Load it" value={card.side ?? "unsaid"} options={SIDES} onChange={(side) => change({ side: side as Card["side"] })} />
      <TextField label="Colour profile" value={card.profile ?? ""} hint="left to the printer" max={60} onKeep={(profile) => change({ profile })} />
      <Toggle label="Borderless" on={card.borderless ?? false} onChange={(borderless) => change({ borderless })} />
      <Toggle label="Fit to page" on={card.fit_to_page ?? false} onChange={(fit_to_page) => change({ fit_to_page })} />
      <CountField label="Drying time, min" value={card.dry_min ?? 15} min={0} max={10080} onKeep={(dry_min) => change({ dry_min })} />
      <Reading label="Scale" words>{card.fit_to_page ? "fit to page" : "100 %, no fit to page"}</Reading>
      <Reading label="Page">{size(sheets.width_mm, sheets.height_mm, 0)}</Reading>
      {film && <Reading label="Film, marks bare">{size(film[2] - film[0], film[3] - film[1], 0)}</Reading>}
      <p className="flex flex-wrap items-center gap-1.5 px-3.5 py-1.5">
        {view.ticked ? (
          <span className="inline-flex items-center gap-1 text-good"><Check size={14} aria-hidden /> Set on the printer today</span>
        ) : (
          <Button onClick={tick}>Confirm for today</Button>
        )}
        <a className={LINK} href={urlOf("get_card_file", path)} target="_blank" rel="noreferrer">Printable card</a>
        <a className={LINK} href={urlOf("get_side_test", path)} target="_blank" rel="noreferrer">Test page: which side?</a>
      </p>
      <p className="px-3.5 pb-1 text-[12.5px] text-quiet">
        Let the ink dry before it is touched, and keep laminate off the marks unless it is matt. Solvent inks want air and gloves: follow the
        maker&rsquo;s manual and local rules.
      </p>
    </Fold>
  );
}
