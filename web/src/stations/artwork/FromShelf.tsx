import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call, previewUrl } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { useNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";

/** A finished design into this job, in one click. */
export function FromShelf() {
  const { job, refresh } = useJob();
  const tell = useNotice();
  const { length } = useUnits();
  const [open, setOpen] = useState(false);
  const [words, setWords] = useState("");
  const { data: items } = useQuery({
    queryKey: ["shelf", words],
    enabled: open,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => call("get_shelf", { signal, query: { named: words, most: 24 } }),
  });
  const take = (item: number) =>
    void call("post_from_shelf", { body: { take: [{ item, longest_mm: null, copies: 1 }], job: job.id, title: "" } })
      .then(() => {
        setOpen(false);
        refresh();
      })
      .catch(tell);
  return (
    <>
      <Button onClick={() => setOpen(true)}>From the shelf …</Button>
      <Dialog open={open} wide title="From the shelf" onClose={() => setOpen(false)}>
        <div className="p-4">
          <input autoFocus aria-label="Find by name or tag" placeholder="Name or tag" value={words} onChange={(event) => setWords(event.target.value)} className="w-full rounded border border-rule bg-paper px-2 py-1" />
          {items?.length === 0 && <p className="pt-3 text-quiet">{words ? "Nothing matches." : "The shelf is empty. Save a finished piece to it at Cut lines."}</p>}
          <ul className="grid max-h-[52vh] grid-cols-4 gap-2 overflow-y-auto pt-3">
            {(items ?? []).map((item) => (
              <li key={item.id}>
                <button type="button" onClick={() => take(item.id)} className="w-full rounded-md border border-rule bg-paper p-2 text-left hover:border-act">
                  <span className="grid h-24 place-items-center"><img src={previewUrl(item.picture)} alt="" className="max-h-24 max-w-full object-contain" /></span>
                  <b className="block truncate pt-1 font-semibold">{item.name}</b>
                  <span className="text-[12.5px] text-quiet">{length(item.longest_mm, 0)}</span>
                </button>
              </li>
            ))}
          </ul>
        </div>
      </Dialog>
    </>
  );
}
