import { Dialog as Radix } from "radix-ui";
import type { ReactNode } from "react";

interface Props {
  title: string;
  description?: string;
  wide?: boolean;
  open: boolean;
  onClose: () => void;
  children: ReactNode;
}

export function Dialog({ title, description, wide = false, open, onClose, children }: Props) {
  return (
    <Radix.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fade fixed inset-0 z-40 bg-ink/35" />
        <Radix.Content
          aria-describedby={description ? undefined : ""}
          className={`fade fixed z-50 left-1/2 max-w-[92vw] -translate-x-1/2 rounded-lg border border-rule bg-card shadow-xl ${wide ? "top-[8vh] w-[840px]" : "top-[14vh] w-[520px]"}`}
        >
          <Radix.Title className="px-4 pt-3 text-[16px]">{title}</Radix.Title>
          {description && <Radix.Description className="px-4 pt-1 text-quiet">{description}</Radix.Description>}
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
