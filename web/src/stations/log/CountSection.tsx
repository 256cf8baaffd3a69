import { useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";

import { call, type Run, type Schemas } from "../../api/client";
import { useJob } from "../../job/job";
import { count } from "../../job/stubs";
import { Button } from "../../ui/Button";
import { CountField } from "../../ui/CountField";
import { useKeys } from "../../ui/keys";
import { useNotice } from "../../ui/Notice";
import { Figures, Section } from "../../ui/Reading";
import { useInTurn } from "../../ui/useInTurn";

export type Cause = Schemas["Count"]["bad"] extends Record<string, infer C> | undefined ? C : never;
export type Bad = Record<string, Cause>;
type Counting = ReturnType<typeof useCounting>;

const CAUSES: Record<Cause, string> = {
  slipped: "slipped",
  "not cut": "are not cut",
  "not through": "are not cut through",
  ragged: "are ragged",
  clings: "cling",
  "liner cut": "have their liner cut",
  "wrong side": "were cut from the wrong side",
  "poor print": "are printed badly",
  lost: "got lost",
};

/** A count in the making: what is marked at once, kept when the hand is lifted, never over what somebody else found. */
export function useCounting(run: Run | undefined) {
  const { refresh, did } = useJob();
  const tell = useNotice();
  const inTurn = useInTurn();
  const [cause, setCause] = useState<Cause>("slipped");
  const [draft, setDraft] = useState<{ run: number; version: number; bad: Bad } | null>(null);
  const version = useRef(0);
  const known = run && draft?.run === run.id && draft.version >= run.count_version;
  const bad: Bad = known ? draft.bad : ((run?.count?.bad ?? {}) as Bad);
  const latest = useRef(bad);
  latest.current = bad;
  useEffect(() => {
    version.current = run?.count_version ?? 0;
  }, [run?.id, run?.count_version]);
  const keep = (found: Schemas["Count"]) => {
    if (!run) return;
    const before = run.count;
    inTurn(() =>
      call("put_count", { path: { run_id: run.id }, body: { version: version.current, count: found } })
        .then((now) => {
          version.current = now.count_version;
          did({ kind: "act", label: `Count of cut ${run.id}`, act: { do: "count", run: run.id, before: before ?? null } });
          setDraft((before) => (before ? { ...before, version: now.count_version } : null));
        })
        .catch((problem) => {
          setDraft(null);
          tell(problem);
        })
        .then(refresh),
    );
  };
  const put = (next: Bad) => {
    latest.current = next;
    if (run) setDraft({ run: run.id, version: version.current, bad: next });
  };
  return {
    cause,
    setCause,
    bad,
    /** Mark one with the cause at hand, or take its mark away. */
    mark: (sticker: number, on: boolean) => {
      const next = { ...latest.current };
      if (on) next[sticker] = cause;
      else delete next[sticker];
      put(next);
    },
    keepMarks: () => keep({ bad: latest.current, numbers: null }),
    allGood: () => {
      put({});
      keep({ bad: {}, numbers: null });
    },
    byNumber: (numbers: NonNullable<Schemas["Count"]["numbers"]>) => {
      setDraft(null);
      keep({ bad: {}, numbers });
    },
  };
}

/** Every sticker of a cut sheet, to be marked by a click, or several by a drag over them. */
export function CountedStickers({ run, counting }: { run: Run; counting: Counting }) {
  const painting = useRef<boolean | null>(null);
  const { keepMarks } = counting;
  const latest = useRef(keepMarks);
  latest.current = keepMarks;
  useEffect(() => {
    const lift = () => {
      if (painting.current === null) return;
      painting.current = null;
      latest.current();
    };
    window.addEventListener("pointerup", lift);
    return () => window.removeEventListener("pointerup", lift);
  }, []);
  return (
    <g role="group" aria-label="Stickers of this cut">
      {(run.stickers ?? []).map((sticker, number) => {
        const [left, top, right, bottom] = sticker.box as [number, number, number, number];
        const cause = counting.bad[number];
        return (
          <g key={number}>
            <rect
              role="checkbox"
              tabIndex={0}
              aria-checked={cause !== undefined}
              aria-label={`Sticker ${number + 1}${cause ? `, ${cause}` : ""}`}
              x={left}
              y={top}
              width={right - left}
              height={bottom - top}
              rx={1.5}
              fill={cause ? "#a3301e40" : "#0f5c5700"}
              stroke={cause ? "#a3301e" : run.count ? "#23734a" : "#0f5c57"}
              strokeWidth={cause ? 0.8 : 0.4}
              strokeDasharray={cause || run.count ? undefined : "1.5 1.5"}
              className="cursor-pointer"
              data-table="still"
              onPointerDown={(event) => {
                if (event.button !== 0) return;
                event.currentTarget.releasePointerCapture(event.pointerId);
                painting.current = cause !== counting.cause;
                counting.mark(number, painting.current);
              }}
              onPointerEnter={() => painting.current !== null && counting.mark(number, painting.current)}
              onKeyDown={(event) => {
                if (event.key !== " " && event.key !== "Enter") return;
                event.preventDefault();
                counting.mark(number, cause !== counting.cause);
                counting.keepMarks();
              }}
            />
            {cause && (
              <text x={(left + right) / 2} y={bottom - 2} textAnchor="middle" fontSize={4} fill="#a3301e" className="pointer-events-none font-semibold">
                {cause}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

/** What was found on a sheet, and what that means for the order. */
export function CountSection({ run, counting }: { run: Run; counting: Counting }) {
  const { job, afterChanges } = useJob();
  const tell = useNotice();
  const navigate = useNavigate();
  const [byNumber, setByNumber] = useState(false);
  const stickers = run.stickers ?? [];
  const bad = run.count?.numbers ? (run.counted_bad ?? 0) : Object.keys(counting.bad).length;
  const isCounted = run.count != null;
  const nameOf = (id: string) => job.recipe.designs?.find((each) => each.id === id)?.name ?? id;
  const here = [...new Set(stickers.map((each) => each.design))];
  const many = (design: string) => stickers.filter((each) => each.design === design).length;
  useKeys({ g: counting.allGood });
  if (!stickers.length || run.lines_done === 0) return null;
  const more = () =>
    void afterChanges(() => call("post_more", { path: { job_id: job.id } }))
      .then((made) => navigate(`/jobs/${made.id}/sheet`))
      .catch(tell);
  const lacking = job.order.reduce((sum, line) => sum + line.more, 0);
  const goodOf = (design: string) => run.count?.numbers?.[design]?.good ?? many(design) - Object.keys(counting.bad).filter((n) => stickers[Number(n)]?.design === design).length;
  const putNumber = (design: string, good: number) =>
    counting.byNumber(Object.fromEntries(here.map((each) => [each, { good: each === design ? good : goodOf(each), bad: many(each) - (each === design ? good : goodOf(each)), cause: counting.cause }])));
  return (
    <Section title="Count good and bad stickers">
      <Figures
        items={
          isCounted || bad
            ? [
                { value: stickers.length - bad, label: "good" },
                { value: bad, label: "bad" },
                { value: stickers.length, label: "on the sheet" },
              ]
            : [{ value: stickers.length, label: "not counted yet" }]
        }
      />
      <div role="radiogroup" aria-label="What is wrong with it" className="flex flex-wrap gap-1 px-3.5 pb-1">
        {(Object.keys(CAUSES) as Cause[]).map((each) => (
          <button
            key={each}
            type="button"
            role="radio"
            aria-checked={counting.cause === each}
            onClick={() => counting.setCause(each)}
            className={`rounded-md border px-2 py-0.5 text-[12.5px] ${counting.cause === each ? "border-stop bg-stop-pale text-stop" : "border-rule bg-paper hover:border-act"}`}
          >
            {each}
          </button>
        ))}
      </div>
      <p className="px-3.5 pb-1 text-[12.5px] text-quiet">Click the stickers that {CAUSES[counting.cause]}, or drag over several. Blades are sharp: weed away from your hand.</p>
      <p className="flex flex-wrap items-center gap-1.5 px-3.5 pb-1">
        <Button kind={isCounted ? "plain" : "act"} onClick={counting.allGood}>All good</Button>
        <span className="text-[12.5px] text-quiet">key G</span>
        <Button kind="quiet" onClick={() => setByNumber(!byNumber)}>{byNumber ? "On the picture" : "By number"}</Button>
      </p>
      {byNumber && here.map((design) => <CountField key={design} label={`${nameOf(design)}, good of ${many(design)}`} value={goodOf(design)} min={0} max={many(design)} onKeep={(good) => putNumber(design, good)} />)}
      {job.order.some((line) => line.good || line.bad) && (
        <ul aria-label="The order" className="px-3.5 pt-1">
          {job.order.map((line) => (
            <li key={line.design} className="flex justify-between gap-2 py-0.5">
              <span className="truncate">{nameOf(line.design)}</span>
              <span className={`figure shrink-0 text-[12.5px] ${line.more ? "text-stop" : line.good >= line.wanted ? "text-good" : "text-quiet"}`}>
                {line.good} of {line.wanted}
                {line.more ? ` · ${line.more} more` : line.spare ? ` · ${line.spare} spare` : line.uncounted + line.to_cut ? ` · ${line.uncounted + line.to_cut} to come` : ""}
              </span>
            </li>
          ))}
        </ul>
      )}
      {lacking > 0 && (
        <p className="px-3.5 py-1">
          <Button kind="act" onClick={more}>Plan the {count(lacking, "sticker")} that {lacking === 1 ? "lacks" : "lack"}</Button>
        </p>
      )}
    </Section>
  );
}
