import { AlertDialog } from "radix-ui";
import { createContext, type ReactNode, useCallback, useContext, useRef, useState } from "react";

import { Button } from "./Button";

export interface Question {
  title: string;
  detail: ReactNode;
  /** What may be done; the first one has the focus only where nothing is spent by it. */
  acts: { value: string; label: string; kind?: "act" | "stop" | "plain" }[];
  cancel?: string;
}

type Ask = (question: Question) => Promise<string | null>;

const Context = createContext<Ask>(() => Promise.resolve(null));

/** Asks before something is spent, thrown away or lost; what closes without an answer does nothing. */
export function AskProvider({ children }: { children: ReactNode }) {
  const [question, setQuestion] = useState<Question | null>(null);
  const answer = useRef<(value: string | null) => void>(() => undefined);
  const keyed = useRef(false);
  const ask = useCallback<Ask>((next) => {
    answer.current(null);
    keyed.current = false;
    setQuestion(next);
    return new Promise((resolve) => {
      answer.current = resolve;
    });
  }, []);
  const say = (value: string | null) => {
    setQuestion(null);
    answer.current(value);
  };
  return (
    <Context.Provider value={ask}>
      {children}
      <AlertDialog.Root open={question !== null} onOpenChange={(open) => !open && say(null)}>
        <AlertDialog.Portal>
          <AlertDialog.Overlay className="fade fixed inset-0 z-[60] bg-ink/35" />
          <AlertDialog.Content
            // The Enter that asked would press the button that has just got the focus; so would a key that is held down.
            onKeyDownCapture={(event) => (event.repeat ? event.preventDefault() : (keyed.current = true))}
            onKeyPressCapture={(event) => !keyed.current && event.preventDefault()}
            className="fade fixed top-[18vh] left-1/2 z-[70] w-[460px] max-w-[92vw] -translate-x-1/2 rounded-lg border border-rule bg-card shadow-xl"
          >
            <AlertDialog.Title className="px-4 pt-3 text-[16px]">{question?.title}</AlertDialog.Title>
            <AlertDialog.Description asChild>
              <div className="px-4 pt-1 text-quiet">{question?.detail}</div>
            </AlertDialog.Description>
            <div className="flex flex-wrap justify-end gap-2 p-4">
              <AlertDialog.Cancel asChild><Button>{question?.cancel ?? "Cancel"}</Button></AlertDialog.Cancel>
              {question?.acts.map((act) => (
                <Button key={act.value} kind={act.kind ?? "act"} onClick={() => say(act.value)}>{act.label}</Button>
              ))}
            </div>
          </AlertDialog.Content>
        </AlertDialog.Portal>
      </AlertDialog.Root>
    </Context.Provider>
  );
}

export const useAsk = () => useContext(Context);
