import type { ReactNode } from "react";

/** What the pointer does on the light table of this station. */
export type Tool =
  | { kind: "none" }
  | { kind: "pick" }
  | { kind: "erase" | "restore" }
  | { kind: "specks" }
  | { kind: "crop" };

interface Props {
  tool: Tool;
  wants: Tool;
  setTool: (tool: Tool) => void;
  icon?: ReactNode;
  children: ReactNode;
}

/** Takes a tool into the hand, or puts it down again. */
export function ToolButton({ tool, wants, setTool, icon, children }: Props) {
  const on = tool.kind === wants.kind;
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={() => setTool(on ? { kind: "none" } : wants)}
      className="inline-flex items-center gap-1.5 rounded-md border border-rule bg-paper px-2.5 py-1 text-[13px] hover:border-act aria-pressed:border-act aria-pressed:bg-act aria-pressed:text-white"
    >
      {icon}
      {children}
    </button>
  );
}
