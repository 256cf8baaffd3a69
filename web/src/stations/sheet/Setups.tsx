import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useState } from "react";

import { call, PLAIN_LINES, type Setup } from "../../api/client";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { Fold } from "../../ui/Fold";
import { useNotice } from "../../ui/Notice";
import { count } from "../../job/stubs";

const KEY = ["setups"];
/** What belongs to one piece alone stays with it. */
const OWN = ["patches", "nodes", "holes_filled", "holes_kept"] as const;

/** Sheet, border and lines kept by name, and used again on another job. */
export function Setups() {
  const { job, selected, change } = useJob();
  const client = useQueryClient();
  const tell = useNotice();
  const [name, setName] = useState("");
  const { data: setups = [] } = useQuery({ queryKey: KEY, queryFn: () => call("get_setups", {}) });
  const design = selected ?? job.recipe.designs?.[0];
  const put = (call: Promise<Setup[]>) => void call.then((kept) => client.setQueryData(KEY, kept), tell);
  const keep = () => {
    if (!design || !name.trim()) return;
    const body = { name: name.trim(), sheet: job.recipe.sheet!, border_mm: design.border_mm ?? 0, peel_mm: design.peel_mm, lines: { ...PLAIN_LINES, ...design.lines } };
    put(call("put_setup", { body }));
    setName("");
  };
  const use = (setup: Setup) =>
    void change(`Set-up: ${setup.name}`, (before) => ({
      ...before,
      sheet: setup.sheet,
      designs: (before.designs ?? []).map((each) => {
        const own = Object.fromEntries(OWN.map((part) => [part, (each.lines ?? PLAIN_LINES)[part]]));
        return { ...each, border_mm: setup.border_mm, peel_mm: setup.peel_mm, lines: { ...PLAIN_LINES, ...setup.lines, ...own } };
      }),
    }));
  return (
    <Fold title="Set-ups" told={setups.length ? count(setups.length, "set-up") : "none saved"}>
      <ul aria-label="Set-ups" className="px-3.5">
        {setups.map((setup) => (
          <li key={setup.name} className="flex items-center gap-1.5 py-0.5">
            <span className="min-w-0 grow truncate">{setup.name}</span>
            <Button aria-label={`Use ${setup.name}`} onClick={() => use(setup)}>Use</Button>
            <button type="button" aria-label={`Remove ${setup.name}`} className="rounded p-1 text-quiet hover:bg-stop-pale hover:text-stop" onClick={() => put(call("delete_setup", { path: { name: setup.name } }))}>
              <Trash2 size={14} />
            </button>
          </li>
        ))}
      </ul>
      <form
        className="flex items-center gap-1.5 px-3.5 py-1"
        onSubmit={(event) => {
          event.preventDefault();
          keep();
        }}
      >
        <input aria-label="Name of the set-up" maxLength={60} placeholder="Jar labels, A4" value={name} onChange={(event) => setName(event.target.value)} className="min-w-0 grow rounded-md border border-rule bg-paper px-2 py-1" />
        <Button type="submit" disabled={!name.trim() || !design}>Save this one</Button>
      </form>
      <p className="px-3.5 text-[12.5px] text-quiet">Saves stock, filling and gap, and the border and lines of {design?.name ?? "the piece"}, to use on any job.</p>
    </Fold>
  );
}
