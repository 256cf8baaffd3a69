import { X } from "lucide-react";
import { createContext, type ReactNode, useCallback, useContext, useState } from "react";

import { Problem } from "../api/client";
import { refuse } from "./refused";
import { useUnits } from "./units";

interface Told {
  key: number;
  title: string;
  detail: string;
}

const Context = createContext<(problem: unknown) => void>(() => undefined);

/** Says what went wrong and what to do, until it is put away. */
export function NoticeProvider({ children }: { children: ReactNode }) {
  const [told, setTold] = useState<Told[]>([]);
  const { sentence } = useUnits();
  const tell = useCallback((problem: unknown) => {
    const known = problem instanceof Problem ? problem : Problem.from(0, null);
    refuse();
    setTold((before) => [...before.slice(-2), { key: Date.now() + Math.random(), title: known.title, detail: known.detail }]);
  }, []);
  return (
    <Context.Provider value={tell}>
      {children}
      <div role="status" aria-live="polite" className="fixed bottom-6 left-6 z-50 flex w-[220px] flex-col gap-2">
        {told.map((notice) => (
          <div key={notice.key} className="fade flex items-start gap-3 rounded-md border border-stop bg-paper px-3 py-2 shadow-lg">
            <p className="grow">
              <b className="text-stop">{sentence(notice.title)}</b> {sentence(notice.detail)}
            </p>
            <button
              type="button"
              aria-label="Put away"
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
