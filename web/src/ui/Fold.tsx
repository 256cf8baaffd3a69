import { ChevronRight } from "lucide-react";
import { Collapsible } from "radix-ui";
import { type ReactNode, useEffect, useState } from "react";

interface Props {
  title: string;
  /** How things stand, said while it is folded too. */
  told?: ReactNode;
  /** Unfolded at first, and when this turns true. */
  open?: boolean;
  onOpen?: (open: boolean) => void;
  children: ReactNode;
}

/** A section that is out of the way until it is wanted. */
export function Fold({ title, told, open = false, onOpen, children }: Props) {
  const [unfolded, setUnfolded] = useState(open);
  useEffect(() => {
    if (open) setUnfolded(true);
  }, [open]);
  return (
    <Collapsible.Root
      open={unfolded}
      onOpenChange={(next) => {
        setUnfolded(next);
        onOpen?.(next);
      }}
      className="border-b border-rule last:border-b-0"
    >
      <h2 className="text-[14px]">
        <Collapsible.Trigger className="group flex w-full items-baseline gap-1.5 px-3.5 py-2 text-left hover:bg-paper focus-visible:-outline-offset-2">
          <ChevronRight size={13} className="shrink-0 self-center text-quiet transition-transform group-data-[state=open]:rotate-90" aria-hidden />
          <span className="grow">{title}</span>
          {told && <span className="truncate font-text text-[12.5px] font-normal text-quiet">{told}</span>}
        </Collapsible.Trigger>
      </h2>
      <Collapsible.Content className="pb-2">{children}</Collapsible.Content>
    </Collapsible.Root>
  );
}
