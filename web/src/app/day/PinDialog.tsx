import { useState } from "react";
import { useNavigate } from "react-router";

import { call, type Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { useNotice } from "../../ui/Notice";
import { clockOf, dayOf, fieldOf, fromField } from "../../ui/when";

const STATIONS: Record<string, string> = { print: "print", cut: "cut", finish: "log" };

/** When a step begins, decided by hand: the rest is planned round it. */
export function PinDialog({ step, onClose }: { step: Schemas["DayStep"]; onClose: (changed: boolean) => void }) {
  const tell = useNotice();
  const navigate = useNavigate();
  const [at, setAt] = useState(fieldOf(step.start_at));
  const pin = (start_at: string | null) =>
    void call("put_pin", { path: { job_id: step.job, step: step.step }, body: { start_at } }).then(() => onClose(true)).catch(tell);
  return (
    <Dialog open form title={step.title} description={`${step.step[0]!.toUpperCase()}${step.step.slice(1)}, ${dayOf(step.start_at)} ${clockOf(step.start_at)} to ${clockOf(step.end_at)}`} onClose={() => onClose(false)}>
      <div className="flex flex-wrap items-center gap-3 p-4">
        <label className="flex items-center gap-2">
          <span className="text-quiet">Begins</span>
          <input type="datetime-local" value={at} onChange={(event) => setAt(event.target.value)} className="figure rounded border border-rule bg-paper px-2 py-1 text-[13px]" />
        </label>
        <Button kind="act" disabled={!at} onClick={() => pin(fromField(at))}>Pin</Button>
        {step.pinned && <Button onClick={() => pin(null)}>Unpin</Button>}
        <Button onClick={() => void navigate(`/jobs/${step.job}/${STATIONS[step.step.split(" ")[0]!] ?? "sheet"}`)}>Open the job</Button>
      </div>
    </Dialog>
  );
}
