import { useId, useState } from "react";

import { call, type Print, urlOf } from "../../api/client";
import { useJob } from "../../job/job";
import { count } from "../../job/stubs";
import { Button } from "../../ui/Button";
import { CountField } from "../../ui/CountField";
import { Fold } from "../../ui/Fold";
import { useNotice } from "../../ui/Notice";
import type { Way } from "./way";

const MOST_LISTED = 6;
const STATES: Record<Print["state"], string> = {
  queued: "waits",
  printing: "printing",
  unknown: "did it come out?",
  out: "handed out",
  printed: "printed",
  failed: "failed",
  cancelled: "taken back",
  spoiled: "spoiled",
};

/** Copies that were asked for together last. */
export function newestBatch(prints: Print[]): Print[] | null {
  const last = prints.find((each) => each.batch && each.copies > 1);
  return last ? prints.filter((each) => each.batch === last.batch) : null;
}

/** Whether some of them are still to come to paper. */
export const isOpen = (batch: Print[]) => batch.some((each) => ["queued", "printing", "out"].includes(each.state));

/** Several copies of a range of sheets, or one for each name of a list. */
export function CopiesSection({ way }: { way: Way }) {
  const { job, refresh, afterChanges, did } = useJob();
  const tell = useNotice();
  const list = useId();
  const there = job.sheets.sheets.length;
  const [copies, setCopies] = useState(2);
  const [range, setRange] = useState<[number, number] | null>(null);
  const [text, setText] = useState("");
  const [asked, setAsked] = useState(false);
  const first = Math.min(range?.[0] ?? 1, there);
  const last = Math.min(range?.[1] ?? there, there);
  const names = text.split(/\n/).map((name) => name.trim()).filter(Boolean);
  const many = (names.length || copies) * (last - first + 1);
  const newest = newestBatch(job.prints);
  const go = async () => {
    setAsked(true);
    const page = way === "own" ? window.open("", "_blank") : null;
    try {
      const made = await afterChanges(() => call("post_copies", { path: { job_id: job.id }, body: { first, last, copies: names.length ? 1 : copies, names, way } }));
      did({ kind: "fixed", label: `Print of ${count(many, "sheet")}` });
      if (page && made[0]?.batch) page.location.href = urlOf("get_batch", { batch: made[0].batch });
      setText("");
    } catch (problem) {
      page?.close();
      tell(problem);
    }
    setAsked(false);
    refresh();
  };
  return (
    <Fold title="Copies and names" told={newest ? `${newest.filter((each) => each.state === "printed").length} of ${newest.length} printed` : "one of each"}>
      {there > 1 && (
        <>
          <CountField label="From sheet" value={first} min={1} max={last} onKeep={(from) => setRange([from, last])} />
          <CountField label="To sheet" value={last} min={first} max={there} onKeep={(to) => setRange([first, to])} />
        </>
      )}
      <CountField label="Copies of each" value={names.length || copies} min={1} max={500} disabled={names.length > 0} onKeep={setCopies} />
      <div className="px-3.5 py-1">
        <label htmlFor={list} className="block text-quiet">Or one copy for each name, one name per line</label>
        <textarea
          id={list}
          value={text}
          rows={4}
          placeholder={"Mara\nOdo"}
          onChange={(event) => setText(event.target.value)}
          className="w-full rounded border border-rule bg-paper px-2 py-1 focus:border-act"
        />
        <p className="text-[12.5px] text-quiet">The name is printed in the margin, clear of marks and blade.</p>
      </div>
      <p className="px-3.5 py-1">
        <Button kind={names.length ? "act" : "plain"} disabled={asked} onClick={() => void go()}>
          {way === "link" ? `Print ${count(many, "sheet")}` : `Hand out ${count(many, "sheet")}`}
        </Button>
      </p>
      {newest && !isOpen(newest) && <Batch prints={newest} />}
    </Fold>
  );
}

/** Prints that were asked for together, in their order. */
export function Batch({ prints }: { prints: Print[] }) {
  const tell = useNotice();
  const ordered = [...prints].sort((a, b) => a.id - b.id);
  const out = ordered.filter((each) => each.state === "out");
  const batch = ordered[0]!.batch!;
  const done = ordered.filter((each) => each.state === "printed").length;
  return (
    <div className="mx-3.5 mb-1.5 rounded-md border border-rule bg-paper px-2.5 py-1.5">
      <p role="status">{done} of {ordered.length} printed</p>
      <ul className={ordered.length > MOST_LISTED ? "max-h-40 overflow-y-auto" : ""}>
        {ordered.map((each) => (
          <li key={each.id} className="flex justify-between gap-2 text-[13px]">
            <span className="min-w-0 truncate" title={each.message ?? undefined}>{each.name || `copy ${each.copy_number}`}, sheet {each.sheet + 1}</span>
            <span className={each.state === "failed" ? "text-stop" : "text-quiet"}>{STATES[each.state]}</span>
          </li>
        ))}
      </ul>
      {out.length > 0 && (
        <p className="flex flex-wrap gap-1.5 pt-1.5">
          <Button kind="act" onClick={() => void call("post_batch_printed", { path: { batch } }).catch(tell)}>{out.length === 1 ? "It is printed" : `All ${out.length} are printed`}</Button>
          <a className="self-center text-act underline" href={urlOf("get_batch", { batch })} target="_blank" rel="noreferrer">The file again</a>
        </p>
      )}
    </div>
  );
}
