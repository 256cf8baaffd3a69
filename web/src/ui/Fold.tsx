import { ChevronRight } from "lucide-react";
import { Collapsible } from "radix-ui";
import { createContext, type ReactNode, useContext, useEffect, useRef, useState, useSyncExternalStore } from "react";

interface Props {
  title: string;
  /** How things stand, said while it is folded too. */
  told?: ReactNode;
  /** Unfolded at first, and when this turns true. */
  open?: boolean;
  onOpen?: (open: boolean) => void;
  children: ReactNode;
}

interface Group {
  now: string | null;
  set: (title: string | null) => void;
  /** Whether a person opened or closed one of them: what arrives later leaves that as it is. */
  isInHand: { current: boolean };
}

const OneOpenContext = createContext<Group | null>(null);

let wanted: string | null = null;
const listeners = new Set<() => void>();

/** Have the section of this title opened, on this page or on the next one that has it. */
export function wantSection(title: string) {
  wanted = title;
  for (const hear of listeners) hear();
}

const heard = (hear: () => void) => {
  listeners.add(hear);
  return () => void listeners.delete(hear);
};

/** Sections of which one is open at a time. */
export function OneOpen({ first = null, children }: { first?: string | null; children: ReactNode }) {
  const [now, set] = useState<string | null>(first);
  const isInHand = useRef(false);
  return <OneOpenContext.Provider value={{ now, set, isInHand }}>{children}</OneOpenContext.Provider>;
}

/** A section that is out of the way until it is wanted. */
export function Fold({ title, told, open = false, onOpen, children }: Props) {
  const group = useContext(OneOpenContext);
  const [own, setOwn] = useState(open);
  const root = useRef<HTMLDivElement>(null);
  const isWanted = useSyncExternalStore(heard, () => wanted === title);
  const unfolded = group ? group.now === title : own;
  const set = (next: boolean) => {
    if (group) {
      group.set(next ? title : null);
      group.isInHand.current = true;
    } else setOwn(next);
    onOpen?.(next);
    // The one that closes above moves this one away from under the pointer.
    if (next && group) requestAnimationFrame(() => root.current?.scrollIntoView({ block: "nearest" }));
  };
  const isThere = useRef(false);
  useEffect(() => {
    const isNew = !isThere.current;
    isThere.current = true;
    if (!open || unfolded || (isNew && group?.isInHand.current)) return;
    if (group) group.set(title);
    else setOwn(true);
    onOpen?.(true);
    // Only when it turns true: whoever folds it afterwards wants it folded.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [open]);
  useEffect(() => {
    if (!isWanted) return;
    wanted = null;
    set(true);
    requestAnimationFrame(() => {
      root.current?.scrollIntoView({ block: "nearest" });
      root.current?.querySelector("button")?.focus();
    });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [isWanted]);
  return (
    <Collapsible.Root ref={root} open={unfolded} onOpenChange={set} className="border-b border-rule last:border-b-0">
      <h2 className="text-[14px]">
        <Collapsible.Trigger className="group flex w-full items-baseline gap-1.5 px-3.5 py-2 text-left hover:bg-paper focus-visible:-outline-offset-2">
          <ChevronRight size={13} className="shrink-0 self-center text-quiet transition-transform group-data-[state=open]:rotate-90" aria-hidden />
          <span className="shrink-0">{title}</span>
          {told && <span className="min-w-0 grow truncate text-right font-text text-[12.5px] font-normal text-quiet">{told}</span>}
        </Collapsible.Trigger>
      </h2>
      <Collapsible.Content className="pb-2">{children}</Collapsible.Content>
    </Collapsible.Root>
  );
}
