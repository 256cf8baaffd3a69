import { Dialog as Radix } from "radix-ui";
import { type ReactNode, useRef } from "react";

import { useAsk } from "./Ask";

interface Props {
  title: string;
  description?: string;
  wide?: boolean;
  open: boolean;
  onClose: () => void;
  /** Whether what is typed in it is kept only by its own button: Escape asks then, once something was typed. */
  form?: boolean;
  children: ReactNode;
}

export function Dialog({ title, description, wide = false, open, onClose, form = false, children }: Props) {
  const ask = useAsk();
  const typed = useRef(false);
  const leave = async () => {
    if (form && typed.current) {
      const answer = await ask({ title: "Close without saving?", detail: "What you typed here is lost.", acts: [{ value: "close", label: "Close", kind: "stop" }], cancel: "Keep editing" });
      if (answer === null) return;
    }
    typed.current = false;
    onClose();
  };
  return (
    <Radix.Root open={open} onOpenChange={(next) => !next && void leave()}>
      <Radix.Portal>
        <Radix.Overlay className="fade fixed inset-0 z-40 bg-ink/35" />
        <Radix.Content
          aria-describedby={description ? undefined : ""}
          onInput={() => {
            typed.current = true;
          }}
          onOpenAutoFocus={() => {
            typed.current = false;
          }}
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
