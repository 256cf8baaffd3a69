import { X } from "lucide-react";
import { createContext, type ReactNode, useCallback, useContext, useState } from "react";

import { Problem } from "../api/client";
import { refuse } from "./refused";

interface Told {
  key: number;
  title: string;
  detail: string;
  /** Whether something went wrong; what did not goes away by itself. */
  wrong: boolean;
}

const SAID_MS = 6000;

const Context = createContext<(problem: unknown) => void>(() => undefined);
const Saying = createContext<(text: string) => void>(() => undefined);

/** Says what went wrong and what to do, until it is put away. */
export function NoticeProvider({ children }: { children: ReactNode }) {
  const [told, setTold] = useState<Told[]>([]);
  const tell = useCallback((problem: unknown) => {
    const known = problem instanceof Problem ? problem : Problem.from(0, null);
    refuse();
    setTold((before) => [...before.slice(-2), { key: Date.now() + Math.random(), title: known.title, detail: known.detail, wrong: true }]);
  }, []);
  const say = useCallback((text: string) => {
    const key = Date.now() + Math.random();
    setTold((before) => [...before.slice(-2), { key, title: "", detail: text, wrong: false }]);
    window.setTimeout(() => setTold((before) => before.filter((other) => other.key !== key)), SAID_MS);
  }, []);
  return (
    <Context.Provider value={tell}>
      <Saying.Provider value={say}>{children}</Saying.Provider>
      <div role="status" aria-live="polite" className="fixed bottom-6 left-6 z-50 flex w-[220px] flex-col gap-2">
        {told.map((notice) => (
          <div key={notice.key} className={`fade flex items-start gap-3 rounded-md border bg-paper px-3 py-2 shadow-lg ${notice.wrong ? "border-stop" : "border-act"}`}>
            <p className="grow">
              {notice.title && <b className="text-stop">{notice.title}</b>} {notice.detail}
            </p>
            <button
              type="button"
              aria-label="Close"
              className="rounded p-0.5 hover:bg-stop-pale"
              onClick={() => setTold((before) => before.filter((other) => other.key !== notice.key))}
            >
              <X size={16} />
            </button>
          </div>
        ))}
      </div>
    </Context.Provider>
  );
}

export const useNotice = () => useContext(Context);
/** Says what was done, for a while. */
export const useSay = () => useContext(Saying);
