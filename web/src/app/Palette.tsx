import { useEffect, useMemo, useState } from "react";
import { useNavigate } from "react-router";

import { useJobsNamed } from "../job/jobs";
import { Dialog } from "../ui/Dialog";

export interface Action {
  label: string;
  hint?: string;
  /** What else people call it. */
  words?: string;
  act: () => void;
}

/** Finds any action, job, stock or setting by a few letters. */
export function Palette({ open, actions, onClose }: { open: boolean; actions: Action[]; onClose: () => void }) {
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const navigate = useNavigate();
  // Enter came before the answer: the first that is found is meant.
  const [eager, setEager] = useState(false);
  const { jobs, looking } = useJobsNamed(text, open);
  useEffect(() => {
    setText("");
    setAt(0);
    setEager(false);
  }, [open]);
  const found = useMemo(() => {
    const words = text.toLowerCase().split(/\s+/).filter(Boolean);
    const all = [...actions, ...jobs.map((job): Action => ({ label: job.title, hint: `job ${job.id}`, act: () => void navigate(`/jobs/${job.id}/artwork`) }))];
    return all.filter((action) => words.every((word) => `${action.label} ${action.hint ?? ""} ${action.words ?? ""}`.toLowerCase().includes(word)));
  }, [actions, jobs, text, navigate]);
  const index = Math.min(at, Math.max(0, found.length - 1));
  const run = (action: Action | undefined) => {
    if (!action) return setEager(looking);
    onClose();
    action.act();
  };
  useEffect(() => {
    const first = found[0];
    if (!eager || !first) return;
    setEager(false);
    onClose();
    first.act();
  }, [eager, found, onClose]);
  return (
    <Dialog title="Find" open={open} onClose={onClose}>
      <div className="p-3">
        <input
          autoFocus
          role="combobox"
          aria-expanded
          aria-controls="found"
          aria-activedescendant={found.length ? `found-${index}` : undefined}
          aria-label="Find an action, a job, a stock or a setting"
          placeholder="An action, a job, a stock, a setting"
          value={text}
          onChange={(event) => {
            setText(event.target.value);
            setAt(0);
            setEager(false);
          }}
          onKeyDown={(event) => {
            if (event.key === "ArrowDown") setAt(Math.min(index + 1, found.length - 1));
            else if (event.key === "ArrowUp") setAt(Math.max(index - 1, 0));
            else if (event.key === "Enter") run(found[index]);
            else return;
            event.preventDefault();
          }}
          className="w-full rounded-md border border-rule bg-paper px-3 py-2"
        />
        <ul id="found" role="listbox" aria-label="Found" className="mt-2 max-h-[46vh] overflow-auto">
          {found.map((action, n) => (
            <li
              key={`${action.label}${action.hint}`}
              id={`found-${n}`}
              role="option"
              aria-selected={n === index}
              ref={(element) => {
                if (n === index) element?.scrollIntoView({ block: "nearest" });
              }}
              onClick={() => run(action)}
              onPointerMove={() => setAt(n)}
              className="flex cursor-pointer justify-between gap-3 rounded px-2.5 py-1.5 aria-selected:bg-act aria-selected:text-white"
            >
              <span>{action.label}</span>
              <span className="figure text-[11.5px] opacity-80">{action.hint}</span>
            </li>
          ))}
          {found.length === 0 && <li className="px-2.5 py-2 text-quiet">Nothing found.</li>}
        </ul>
      </div>
    </Dialog>
  );
}
