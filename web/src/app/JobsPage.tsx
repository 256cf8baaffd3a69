import { useState } from "react";
import { Link, useNavigate } from "react-router";

import { Button } from "../ui/Button";
import { useUnits } from "../ui/units";
import { Header } from "./Header";
import { useJobs } from "../job/jobs";
import { useFileDrop } from "../ui/fileDrop";
import { useKeys } from "../ui/keys";
import { Palette } from "./Palette";

/** All jobs, as a pile of dockets. */
export function JobsPage() {
  const { jobs, begin, error, isPending, more, fetchingMore } = useJobs();
  const { unit, setUnit } = useUnits();
  const navigate = useNavigate();
  const [finding, setFinding] = useState(false);
  useKeys({ "ctrl+k": () => setFinding(true) });
  useFileDrop((files) => void begin(files));
  const actions = [
    { label: "New job", act: () => void begin() },
    { label: "Stocks and machines", act: () => void navigate("/shop") },
    { label: `Show lengths in ${unit === "mm" ? "inches" : "millimetres"}`, act: () => setUnit(unit === "mm" ? "in" : "mm") },
  ];
  return (
    <div className="flex h-full flex-col">
      <Header onFind={() => setFinding(true)} />
      <main className="mx-auto w-full max-w-3xl grow overflow-auto p-8">
        <div className="flex items-center justify-between pb-4">
          <h1 className="text-[22px]">Jobs</h1>
          <span className="flex items-center gap-4">
            <Link to="/shop" className="text-act underline underline-offset-2 hover:text-ink">Stocks and machines</Link>
            <Button kind="act" onClick={() => void begin()}>New job</Button>
          </span>
        </div>
        {error && <p role="alert" className="pb-3 text-stop">{error.message}</p>}
        {!isPending && !error && jobs.length === 0 && <p className="text-quiet">No jobs yet. Drop pictures here, or begin one.</p>}
        <ul className="grid gap-2.5">
          {jobs.map((job) => (
            <li key={job.id}>
              <Link to={`/jobs/${job.id}/artwork`} className="grid grid-cols-[88px_1fr_auto] items-center rounded-lg border border-rule bg-paper hover:border-act">
                <span className="figure border-r-[1.5px] border-dashed border-rule px-4 py-3.5 text-[12px] text-quiet">{String(job.id).padStart(4, "0")}</span>
                <b className="font-head px-4 text-[16px] font-semibold">{job.title}</b>
                <span className="figure px-4 text-[12px] text-quiet">
                  {job.designs === 0 ? "empty" : `${job.designs} ${job.designs === 1 ? "piece" : "pieces"}`}
                  {job.printed > 0 && ` · ${job.printed} printed`}
                  {job.cut > 0 && ` · ${job.cut} cut`}
                </span>
              </Link>
            </li>
          ))}
        </ul>
        {more && (
          <p className="pt-4 text-center">
            <Button disabled={fetchingMore} onClick={more}>Earlier jobs</Button>
          </p>
        )}
      </main>
      <Palette open={finding} actions={actions} onClose={() => setFinding(false)} />
    </div>
  );
}
