import { type ChangeEvent, type KeyboardEvent, useEffect, useRef, useState } from "react";

import { useRefusals } from "./refused";

/**
 * What is typed into a field that shows `shown`, and the properties of its input. `keep` gets the text once, when it
 * is confirmed by Enter or by leaving the field: both often come before the answer to the first.
 */
export function useTyped(shown: string, keep: (text: string) => void) {
  const [text, setText] = useState(shown);
  const open = useRef(false);
  const restore = () => {
    open.current = false;
    setText(shown);
  };
  useEffect(() => {
    open.current = false;
    setText(shown);
  }, [shown]);
  const refusals = useRefusals();
  useEffect(() => {
    if (!open.current) setText(shown);
  }, [refusals, shown]);
  const confirm = () => {
    if (!open.current) return;
    open.current = false;
    keep(text);
  };
  const input = {
    value: text,
    onChange: (event: ChangeEvent<HTMLInputElement>) => {
      open.current = true;
      setText(event.target.value);
    },
    onBlur: confirm,
    onKeyDown: (event: KeyboardEvent) => {
      if (event.key === "Enter") confirm();
      if (event.key === "Escape") restore();
    },
  };
  return { text, setText, restore, input };
}
