import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Archive, Copy, MoreHorizontal, Trash2, Undo2 } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useState } from "react";
import { Link, useNavigate } from "react-router";

import { call, type JobSummary, previewUrl } from "../api/client";
import { useJobList, useJobs, type Which } from "../job/jobs";
import { count } from "../job/stubs";
import { Button } from "../ui/Button";
import { Dialog } from "../ui/Dialog";
import { DueField } from "../ui/DueField";
import { useFileDrop } from "../ui/fileDrop";
import { useNotice } from "../ui/Notice";
import { clockOf, dayOf } from "../ui/when";
import { useShop } from "../job/useShop";
import { Now } from "./day/TodayPage";
import { FirstEquipment } from "./FirstEquipment";
import { ShopFrame } from "./ShopFrame";

type Stage = JobSummary["stage"];
const STAGES: Record<Stage, { told: string; station: string; tone: string }> = {
  empty: { told: "empty", station: "artwork", tone: "text-quiet bg-[#edf1ef]" },
  "to print": { told: "to print", station: "print", tone: "text-act bg-act-pale" },
  "to cut": { told: "to cut", station: "cut", tone: "text-act bg-act-pale" },
  "to count": { told: "to count", station: "log", tone: "text-look bg-look-pale" },
  counted: { told: "counted", station: "log", tone: "text-good bg-good-pale" },
};

/** The list to work from: found, sorted, with what each job waits for. */
export function JobsPage() {
  const { begin } = useJobs();
  const shop = useShop();
  const [named, setNamed] = useState("");
  const [which, setWhich] = useState<Which>("open");
  const [stage, setStage] = useState<Stage | "">("");
  const [sort, setSort] = useState<"worked" | "due" | "title" | "number">("worked");
  const { jobs, total, error, isPending, more, fetchingMore, again } = useJobList({ named, which, stage: stage || null, sort });
  const { data: day } = useQuery({ queryKey: ["day"], queryFn: () => call("get_day", {}), refetchInterval: 30_000 });
  useFileDrop((files) => void begin(files));
  const select = "rounded-md border border-rule bg-paper px-2 py-1 hover:border-act";
  return (
    <ShopFrame>
      <main className="min-h-0 grow overflow-y-auto">
        <div className="mx-auto w-full max-w-5xl p-5">
          {day && day.now.job !== null && <div className="pb-4"><Now act={day.now} /></div>}
          <div className="flex flex-wrap items-center gap-3 pb-3">
            <h1 className="text-[20px]">Jobs</h1>
            <input type="search" aria-label="Find jobs by title, number or customer" placeholder="Title, number or customer" value={named} onChange={(event) => setNamed(event.target.value)} className="w-56 rounded-md border border-rule bg-paper px-2.5 py-1" />
            <select aria-label="Waiting for" value={stage} onChange={(event) => setStage(event.target.value as Stage | "")} className={select}>
              <option value="">waiting for anything</option>
              {Object.entries(STAGES).map(([value, { told }]) => <option key={value} value={value}>{told}</option>)}
            </select>
            <select aria-label="Sorted" value={sort} onChange={(event) => setSort(event.target.value as typeof sort)} className={select}>
              <option value="worked">last changed first</option>
              <option value="due">due first</option>
              <option value="title">by title</option>
              <option value="number">newest first</option>
            </select>
            <select aria-label="Which jobs" value={which} onChange={(event) => setWhich(event.target.value as Which)} className={select}>
              <option value="open">open</option>
              <option value="archived">archived</option>
              <option value="all">all</option>
            </select>
            <span className="figure grow text-[12px] text-quiet">{total ?? ""}</span>
            <Button kind="act" onClick={() => void begin()}>New job</Button>
          </div>
          {/* Below the buttons, which do not move under the hand when the answer comes. */}
          {shop?.is_new && <FirstEquipment />}
          {error && <p role="alert" className="pb-3 text-stop">{error.message}</p>}
          {!isPending && !error && jobs.length === 0 && (
            <p className="text-quiet">{named || stage || which !== "open" ? "No job matches." : "No jobs yet. Drop pictures here, or begin one."}</p>
          )}
          <ul aria-label="Jobs" className="grid gap-2">
            {jobs.map((job) => <Row key={job.id} job={job} onChanged={again} />)}
          </ul>
          {more && <p className="pt-4 text-center"><Button disabled={fetchingMore} onClick={more}>More jobs</Button></p>}
        </div>
      </main>
    </ShopFrame>
  );
}

function Row({ job, onChanged }: { job: JobSummary; onChanged: () => void }) {
  const stage = STAGES[job.stage];
  const late = job.due_at !== null && new Date(job.due_at).getTime() < Date.now() && job.stage !== "counted";
  const facts = [
    job.designs > 0 && count(job.designs, "piece"),
    job.printed > 0 && `${job.printed} printed`,
    job.cut > 0 && `${job.cut} cut`,
    job.counted > 0 && `${job.counted} counted`,
    job.orders.length > 0 && `for ${job.orders.slice(0, 2).join(", ")}${job.orders.length > 2 ? ` and ${job.orders.length - 2} more` : ""}`,
  ].filter(Boolean);
  return (
    <li className="flex items-stretch rounded-lg border border-rule bg-paper hover:border-act">
      <Link to={`/jobs/${job.id}/artwork`} className="grid min-w-0 grow grid-cols-[70px_166px_minmax(0,1fr)_96px_110px] items-center">
        <span className="figure self-stretch border-r-[1.5px] border-dashed border-rule px-4 pt-4.5 text-[12px] text-quiet">{String(job.id).padStart(4, "0")}</span>
        <span className="flex h-14 items-center gap-1 px-2.5">
          {job.pictures.slice(0, 3).map((picture, n) => <img key={n} src={previewUrl(picture)} alt="" loading="lazy" className="h-10 max-w-10 object-contain" onError={(event) => event.currentTarget.remove()} />)}
          {job.designs > 3 && <span className="figure text-[11px] text-quiet">+{job.designs - 3}</span>}
        </span>
        <span className="min-w-0 px-2">
          <b className="font-head block truncate text-[15px] font-semibold" title={job.title}>{job.title}</b>
          <span className="block truncate text-[12.5px] text-quiet">{facts.join(" · ")}</span>
        </span>
        <span><span className={`rounded-[3px] px-1.5 text-[12px] font-semibold ${job.under_way ? "bg-look-pale text-look" : stage.tone}`}>{job.under_way || stage.told}</span></span>
        <span className={`pr-2 text-right text-[12.5px] ${late ? "font-semibold text-stop" : "text-quiet"}`} title={job.due_at ? `${dayOf(job.due_at)} ${clockOf(job.due_at)}` : ""}>{job.due_at ? `${late ? "was due" : "due"} ${dayOf(job.due_at)}` : ""}</span>
      </Link>
      <Menu job={job} onChanged={onChanged} />
    </li>
  );
}

const ENTRY = "flex cursor-pointer items-center gap-2 rounded px-2.5 py-1.5 outline-none data-[highlighted]:bg-act data-[highlighted]:text-white";

function Menu({ job, onChanged }: { job: JobSummary; onChanged: () => void }) {
  const tell = useNotice();
  const navigate = useNavigate();
  const client = useQueryClient();
  const [going, setGoing] = useState(false);
  const [dating, setDating] = useState(false);
  const path = { job_id: job.id };
  const changed = () => {
    onChanged();
    void client.invalidateQueries({ queryKey: ["day"] });
  };
  const away = job.archived_at === null;
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger aria-label={`More for ${job.title}`} className="rounded-r-lg px-2.5 text-quiet hover:bg-card hover:text-ink focus-visible:-outline-offset-2"><MoreHorizontal size={16} /></DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" className="z-40 min-w-44 rounded-md border border-rule bg-paper p-1 shadow-lg">
            <DropdownMenu.Item className={ENTRY} onSelect={() => setDating(true)}>Due date …</DropdownMenu.Item>
            <DropdownMenu.Item className={ENTRY} onSelect={() => void call("post_copy", { path }).then((copy) => navigate(`/jobs/${copy.id}/artwork`)).catch(tell)}><Copy size={14} aria-hidden />Copy</DropdownMenu.Item>
            <DropdownMenu.Item className={ENTRY} onSelect={() => void call("put_archived", { path, body: { archived: away } }).then(changed).catch(tell)}>
              {away ? <Archive size={14} aria-hidden /> : <Undo2 size={14} aria-hidden />}{away ? "Archive" : "Restore"}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={ENTRY} onSelect={() => setGoing(true)}><Trash2 size={14} aria-hidden />Delete permanently …</DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {going && <DeleteDialog job={job} onClose={(gone) => { setGoing(false); if (gone) changed(); }} />}
      {dating && (
        <Dialog open form title={job.title} description="Due date" onClose={() => setDating(false)}>
          <div className="py-3"><DueField label="Due" at={job.due_at} onKeep={(due_at) => void call("put_due", { path, body: { due_at } }).then(changed).catch(tell)} /></div>
        </Dialog>
      )}
    </>
  );
}

function DeleteDialog({ job, onClose }: { job: JobSummary; onClose: (gone: boolean) => void }) {
  const tell = useNotice();
  const { data } = useQuery({ queryKey: ["goes", job.id], queryFn: () => call("get_goes", { path: { job_id: job.id } }), staleTime: 0 });
  const parts = data
    ? [count(data.steps, "step"), count(data.prints, "print"), count(data.runs, "cut"), data.stickers > 0 && `the count of ${count(data.stickers, "good sticker")}`, data.orders > 0 && `its place in ${count(data.orders, "order")}`].filter(Boolean)
    : [];
  return (
    <Dialog open title={`Delete “${job.title}” for good?`} onClose={() => onClose(false)}>
      <div className="p-4">
        <p>{data ? `This also deletes ${parts.join(", ")}. Only a backup can bring it back. Archiving keeps it.` : "Checking what it holds …"}</p>
        {data?.busy && <p className="pt-2 text-look">This job is printing or cutting. Wait until it is done, or cancel it.</p>}
        <p className="flex justify-end gap-2 pt-4">
          <Button onClick={() => onClose(false)}>Cancel</Button>
          <Button kind="stop" disabled={!data || data.busy} onClick={() => void call("delete_job", { path: { job_id: job.id } }).then(() => onClose(true)).catch(tell)}>Delete permanently</Button>
        </p>
      </div>
    </Dialog>
  );
}
