import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { call } from "../api/client";
import { useNotice } from "../ui/Notice";
import { withWhatIsHeard } from "../job/heard";
import { useJob } from "../job/job";

/** The job's title; click to change it. */
export function Title() {
  const { job, afterChanges } = useJob();
  const client = useQueryClient();
  const tell = useNotice();
  const [text, setText] = useState<string | null>(null);
  const keep = async () => {
    const title = text?.trim();
    setText(null);
    if (!title || title === job.title) return;
    try {
      const changed = await afterChanges(() => withWhatIsHeard(job.id, () => call("put_title", { path: { job_id: job.id }, body: { title } })));
      client.setQueryData(["job", job.id], changed);
      void client.invalidateQueries({ queryKey: ["jobs"] });
    } catch (problem) {
      tell(problem);
    }
  };
  if (text !== null)
    return (
      <input
        autoFocus
        aria-label="Title of the job"
        value={text}
        maxLength={120}
        onChange={(event) => setText(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === "Enter") void keep();
          if (event.key === "Escape") setText(null);
        }}
        className="font-head mt-0.5 w-full rounded border border-rule px-1 text-[16px] font-semibold"
      />
    );
  return (
    <h1 className="mt-0.5 text-[17px] leading-tight">
      <button type="button" title="Change the title" className="text-left hover:underline" onClick={() => setText(job.title)}>
        {job.title}
      </button>
    </h1>
  );
}
