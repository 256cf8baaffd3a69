import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { call } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { Fold } from "../../ui/Fold";
import { useNotice } from "../../ui/Notice";

/** Keep a finished piece on the shelf, or have what has changed there since. */
export function ShelfSection() {
  const { job, selected, refresh, afterChanges } = useJob();
  const tell = useNotice();
  const client = useQueryClient();
  const [tags, setTags] = useState("");
  const [kept, setKept] = useState<string | null>(null);
  const { data: offers } = useQuery({ queryKey: ["offers", job.id, job.revision], queryFn: () => call("get_offers", { path: { job_id: job.id } }) });
  if (!selected) return null;
  const mine = offers?.find((each) => each.design === selected.id);
  const keep = () =>
    void afterChanges(() => call("post_shelf", { body: { job: job.id, design: selected.id, name: null, tags: tags.split(",").map((tag) => tag.trim()).filter(Boolean) } }))
      .then((item) => {
        setKept(`${selected.id} ${item.version}`);
        void client.invalidateQueries({ queryKey: ["shelf"] });
        void client.invalidateQueries({ queryKey: ["offers"] });
      })
      .catch(tell);
  const take = () =>
    void afterChanges(() => call("post_offer", { path: { job_id: job.id, design: selected.id } }))
      .then(() => {
        refresh();
        return client.invalidateQueries({ queryKey: ["offers"] });
      })
      .catch(tell);
  const isKept = kept?.startsWith(`${selected.id} `);
  return (
    <Fold title="Shelf" told={mine ? "changed on the shelf" : isKept ? "on the shelf" : "for other jobs"} open={Boolean(mine)}>
      {mine && (
        <div className="mx-2.5 mb-2 rounded-md border border-look bg-look-pale px-2.5 py-2">
          <p>{mine.name} has changed on the shelf since it was added here (version {mine.newest}, here {mine.version}).</p>
          <p className="pt-1.5"><Button onClick={take}>Replace with the shelf's version</Button></p>
        </div>
      )}
      <p className="px-3.5 pb-1 text-quiet">Saves its picture, edits, lines and stock for any job or order.</p>
      <label className="block px-3.5 py-1 text-quiet">
        Tags, with commas between
        <input value={tags} maxLength={200} placeholder="birds, spring" onChange={(event) => setTags(event.target.value)} className="mt-0.5 block w-full rounded border border-rule bg-paper px-2 py-1 text-ink" />
      </label>
      <p className="flex items-center gap-3 px-3.5 py-1">
        <Button onClick={keep}>Keep {selected.name} on the shelf</Button>
        {isKept && <Link to="/shelf" className="text-act underline underline-offset-2">Open the shelf</Link>}
      </p>
    </Fold>
  );
}
