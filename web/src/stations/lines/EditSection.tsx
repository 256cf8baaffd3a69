import { Trash2 } from "lucide-react";
import type { ReactNode } from "react";

import type { Patch } from "../../api/client";
import { Button } from "../../ui/Button";
import { Fold } from "../../ui/Fold";
import { useUnits } from "../../ui/units";
import { count } from "../../job/stubs";
import type { LineChange } from "./useLineChange";
import type { Nodes } from "./useNodes";
import type { PatchTool } from "./usePatchHand";

const TOOLS: { tool: NonNullable<PatchTool>; label: string; icon: ReactNode }[] = [
  { tool: { does: "unite", shape: "box" }, label: "Add box", icon: <rect x="1" y="3" width="12" height="8" /> },
  { tool: { does: "unite", shape: "ellipse" }, label: "Add oval", icon: <ellipse cx="7" cy="7" rx="6" ry="4" /> },
  { tool: { does: "cut", shape: "box" }, label: "Cut box", icon: <rect x="1" y="3" width="12" height="8" strokeDasharray="2 1.6" /> },
  { tool: { does: "cut", shape: "ellipse" }, label: "Cut oval", icon: <ellipse cx="7" cy="7" rx="6" ry="4" strokeDasharray="2 1.6" /> },
  { tool: { does: "unite", shape: "bridge" }, label: "Add bridge", icon: <path d="M1 12L13 2" strokeWidth="3" /> },
];

const NODE_ACTS = [
  { does: "add" as const, label: "Add after" },
  { does: "delete" as const, label: "Take out" },
  { does: "smooth" as const, label: "Smooth" },
  { does: "corner" as const, label: "Corner" },
];

interface Props {
  change: LineChange;
  tool: PatchTool;
  setTool: (tool: PatchTool) => void;
  nodes: Nodes;
  setNodes: (on: boolean) => void;
  longestMm: number;
}

/** Edits of the line by hand; they keep their place on the piece when its size changes. */
export function EditSection({ change, tool, setTool, nodes, setNodes, longestMm }: Props) {
  const { now, keep } = change;
  const { size } = useUnits();
  const edits = now.patches.length + now.nodes.length;
  const without = (index: number) => now.patches.filter((_, n) => n !== index);
  return (
    <Fold title="Edit by hand" told={edits ? count(edits, "edit") : "as computed"}>
      <div className="grid grid-cols-2 gap-1.5 px-3.5 py-1">
        {TOOLS.map((each) => {
          const on = tool?.does === each.tool.does && tool.shape === each.tool.shape;
          return (
            <button
              key={each.label}
              type="button"
              aria-pressed={on}
              onClick={() => setTool(on ? null : each.tool)}
              className="inline-flex items-center gap-2 rounded-md border border-rule bg-paper px-2.5 py-1 text-[13px] hover:border-act aria-pressed:border-act aria-pressed:bg-act aria-pressed:text-white"
            >
              <svg width="14" height="14" fill="none" stroke="currentColor" strokeWidth="1.5" aria-hidden>{each.icon}</svg>
              {each.label}
            </button>
          );
        })}
      </div>
      <div className="px-3.5 py-1">
        <Button kind={nodes.active ? undefined : "quiet"} aria-pressed={nodes.active} onClick={() => setNodes(!nodes.active)}>{nodes.active ? "Close node editing" : "Edit nodes"}</Button>
      </div>
      {nodes.active && (
        <div className="flex flex-wrap items-center gap-1.5 px-3.5 py-1" role="group" aria-label="Nodes">
          <Button kind="quiet" aria-label="Previous node" onClick={() => nodes.step(-1)}>‹</Button>
          <span className="figure min-w-16 text-center text-[12.5px]">{nodes.chosen.length === 1 ? `${nodes.chosen[0]! + 1} of ${nodes.nodes.length}` : nodes.chosen.length ? `${nodes.chosen.length} chosen` : `${nodes.nodes.length} nodes`}</span>
          <Button kind="quiet" aria-label="Next node" onClick={() => nodes.step(1)}>›</Button>
          {NODE_ACTS.map((each) => <Button key={each.does} kind="quiet" disabled={!nodes.chosen.length} onClick={() => nodes.act(each.does)}>{each.label}</Button>)}
        </div>
      )}
      {now.patches.length > 0 && (
          <ul aria-label="Edits" className="mx-3.5 my-1 max-h-36 overflow-y-auto rounded-md border border-rule bg-paper text-[12.5px]">
            {now.patches.map((patch: Patch, index) => (
              <li key={index} className="flex items-center justify-between border-b border-rule px-2 py-0.5 last:border-b-0">
                {patch.does === "unite" ? "Added" : "Cut"} {patch.shape === "ellipse" ? "oval" : patch.shape}, {size(patch.width * longestMm, patch.height * longestMm)}
                <button type="button" aria-label={`Remove edit ${index + 1}`} className="rounded p-1 text-quiet hover:bg-stop-pale hover:text-stop" onClick={() => keep("Remove an edit", {}, { patches: without(index) })}>
                  <Trash2 size={14} />
                </button>
              </li>
            ))}
          </ul>
      )}
      {edits > 0 && <p className="px-3.5 py-1"><Button kind="quiet" onClick={() => keep("As computed", {}, { patches: [], nodes: [] })}>Back to the computed line</Button></p>}
    </Fold>
  );
}
