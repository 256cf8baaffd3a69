import { type ReactNode, useRef } from "react";

import { Button } from "./Button";

/** A button that asks for one file from the disk; `label` says what file, to whoever hears the page. */
export function FileButton({ label, accept, onFile, children }: { label: string; accept: string; onFile: (file: File) => void; children: ReactNode }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        className="hidden"
        aria-label={label}
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          if (chosen) onFile(chosen);
          event.target.value = "";
        }}
      />
      <Button onClick={() => input.current?.click()}>{children}</Button>
    </>
  );
}
