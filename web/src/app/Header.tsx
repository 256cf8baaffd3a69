import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Redo2, Undo2 } from "lucide-react";
import type { ReactNode } from "react";
import { Link } from "react-router";

import { call } from "../api/client";
import { useShop } from "../job/useShop";
import { useUnits } from "../ui/units";

/** The dark band on top: whose job, when it was kept, units, and the way to everything else. */
export function Header({ title, kept, onFind, walk }: {
  title?: string;
  kept?: ReactNode;
  onFind: () => void;
  walk?: { undo?: { label: string; act: () => void }; redo?: { label: string; act: () => void } };
}) {
  const { unit, setUnit } = useUnits();
  const shop = useShop();
  const icon = "rounded p-1.5 hover:bg-white/10 disabled:opacity-35 disabled:hover:bg-transparent";
  return (
    <header className="shrink-0 flex h-11 items-center gap-3.5 bg-ink px-4 text-[#eef4f1]">
      <Link to="/" className="wordmark" title="All jobs">Perisect</Link>
      <span className="min-w-0 truncate opacity-90">{[shop?.name, title].filter(Boolean).join(" · ")}</span>
      <span className="grow" />
      {walk && (
        <span className="flex">
          <button type="button" className={icon} aria-label="Undo (Ctrl Z)" title={walk.undo ? `Undo: ${walk.undo.label} (Ctrl Z)` : "Nothing to undo"} disabled={!walk.undo} onClick={walk.undo?.act}><Undo2 size={16} /></button>
          <button type="button" className={icon} aria-label="Redo (Ctrl Shift Z)" title={walk.redo ? `Redo: ${walk.redo.label} (Ctrl Shift Z)` : "Nothing to redo"} disabled={!walk.redo} onClick={walk.redo?.act}><Redo2 size={16} /></button>
        </span>
      )}
      {kept && <span className="hidden whitespace-nowrap text-[12.5px] opacity-85 md:inline">{kept}</span>}
      <span role="group" aria-label="Unit" className="figure flex overflow-hidden rounded-[5px] border border-[#52635e] text-[11px]">
        {(["mm", "in"] as const).map((each) => (
          <button key={each} type="button" aria-pressed={unit === each} onClick={() => setUnit(each)} className="px-2 py-0.5 focus-visible:-outline-offset-2 aria-pressed:bg-[#7fd1c6] aria-pressed:text-[#10201d]">
            {each}
          </button>
        ))}
      </span>
      <SignOut />
      <button type="button" onClick={onFind} className="figure rounded border border-[#52635e] px-1.5 py-px text-[11px] whitespace-nowrap text-[#cfe0d9] hover:border-[#7fd1c6]">Ctrl K</button>
    </header>
  );
}

/** The way out, where people sign in. */
function SignOut() {
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: ["sign-in"], queryFn: () => call("get_sign_in", {}), staleTime: Infinity });
  if (!data?.needed) return null;
  return (
    <button type="button" className="rounded px-1.5 py-0.5 text-[12.5px] hover:bg-white/10" onClick={() => void call("delete_sign_in", {}).finally(() => client.invalidateQueries())}>
      Sign out
    </button>
  );
}
