import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { call, type Schemas, sendFile, urlOf } from "../../api/client";
import { useJob } from "../../job/job";
import { count } from "../../job/stubs";
import { Button } from "../../ui/Button";
import { FileButton } from "../../ui/FileButton";
import { Fold } from "../../ui/Fold";
import { useInTurn } from "../../ui/useInTurn";
import { useNotice } from "../../ui/Notice";
import { cardKey } from "./CardSection";

type Head = Schemas["HeadView"];
type Ink = Schemas["GapView"]["ink"];

const INKS: { name: Ink; colour: string }[] = [
  { name: "cyan", colour: "#00a3d9" },
  { name: "magenta", colour: "#c9188a" },
  { name: "yellow", colour: "#e0b400" },
  { name: "black", colour: "#1b2023" },
];
const STAIR = 12;
const day = (at: string) => new Date(at).toLocaleDateString(undefined, { day: "numeric", month: "short" });

/** What is known of the head of this job's printer. */
export function useHead() {
  const { job } = useJob();
  const { data } = useQuery({
    queryKey: ["head", ...cardKey(job.id, job.recipe.sheet)],
    queryFn: ({ signal }) => call("get_head", { path: { job_id: job.id }, signal }),
    refetchInterval: (query) => (["queued", "printing"].includes(query.state.data?.pattern?.state ?? "") ? 1000 : false),
    retry: false,
  });
  return data;
}

const told = (head: Head) =>
  head.read_at === null ? "not checked" : head.gaps.length ? count(head.gaps.length, "gap") : `no gaps, ${day(head.read_at)}`;

/** Whether all nozzles of the printer's head fire: a pattern, read by eye or from a picture. */
export function HeadSection() {
  const { job } = useJob();
  const tell = useNotice();
  const client = useQueryClient();
  const head = useHead();
  const inTurn = useInTurn();
  const path = { job_id: job.id };
  const key = ["head", ...cardKey(job.id, job.recipe.sheet)];
  const put = (asked: Promise<Head>) => void asked.then((now) => client.setQueryData(key, now)).catch(tell);
  const printed = head?.pattern?.state === "printed" && head.pattern.has_picture ? head.pattern : null;
  const isRead = useRef<number | null>(null);
  // What came back from the printer is looked at without being asked to.
  useEffect(() => {
    if (!printed || isRead.current === printed.id) return;
    isRead.current = printed.id;
    call("post_read", { path }).then((now) => client.setQueryData(key, now)).catch(tell);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [printed?.id]);
  if (!head) return null;
  const under = head.pattern && ["queued", "printing"].includes(head.pattern.state);
  const gone = (ink: Ink, group: number) => head.gaps.some((gap) => gap.ink === ink && gap.group === group);
  const turn = (ink: Ink, group: number) => {
    const missing = !gone(ink, group);
    inTurn(() => {
      const others = (client.getQueryData<Head>(key) ?? head).gaps.filter((gap) => gap.ink !== ink || gap.group !== group);
      return call("put_gaps", { path, body: { gaps: missing ? [...others, { ink, group }] : others } }).then((now) => client.setQueryData(key, now)).catch(tell);
    });
  };
  return (
    <Fold title="Head check" told={told(head)}>
      <p className="px-3.5 pb-1 text-[12.5px] text-quiet">A head that drops lines ruins a sheet. Print the pattern on plain paper; every dash is a group of nozzles.</p>
      <p className="flex flex-wrap gap-1.5 px-3.5 py-1">
        <Button disabled={Boolean(under)} onClick={() => put(call("post_pattern", { path }))}>{under ? "Printing the pattern …" : "Print the pattern"}</Button>
        <a className="rounded-md border border-rule bg-paper px-3 py-1.5 hover:border-act" href={urlOf("get_pattern", path)} target="_blank" rel="noreferrer">Open it</a>
        <FileButton label="Scan or photo of the pattern" accept="image/*,.pdf" onFile={(chosen) => put(sendFile("post_head_picture", path, chosen))}>Scan or photo …</FileButton>
      </p>
      {head.pattern?.state === "failed" && <p role="alert" className="px-3.5 pb-1 text-stop">{head.pattern.message}</p>}
      <p className="px-3.5 pt-1 text-[12.5px] text-quiet">Or click the dashes that are missing on the paper.</p>
      {INKS.map(({ name, colour }) => (
        <div key={name} className="flex items-start gap-2 px-3.5 py-1">
          <span className="w-16 shrink-0 text-[12.5px] text-quiet">{name}</span>
          <div role="group" aria-label={`Dashes of ${name}`} className="grid grow gap-px" style={{ gridTemplateColumns: `repeat(${STAIR}, 1fr)` }}>
            {Array.from({ length: head.groups }, (_, group) => {
              const missing = gone(name, group);
              return (
                <button
                  key={group}
                  type="button"
                  aria-pressed={missing}
                  aria-label={`${name} ${group + 1}${missing ? ", missing" : ""}`}
                  onClick={() => turn(name, group)}
                  className={`grid h-3.5 place-items-center rounded-sm ${missing ? "bg-stop-pale outline-1 outline-stop" : "hover:bg-paper"}`}
                >
                  <span className="block h-[3px] w-full" style={missing ? { borderTop: "1px dashed #a3301e" } : { background: colour }} />
                </button>
              );
            })}
          </div>
        </div>
      ))}
      {head.read_at === null && (
        <p className="px-3.5 py-1"><Button onClick={() => put(call("put_gaps", { path, body: { gaps: [] } }))}>All dashes are there</Button></p>
      )}
    </Fold>
  );
}
