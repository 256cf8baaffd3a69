import { useCallback } from "react";

import { Problem } from "../api/client";
import { useAsk } from "../ui/Ask";
import { differences } from "./differences";

/** Writes a record of the shop from the version that is shown. Where somebody changed it meanwhile, both versions are
 *  shown and one is chosen; null where theirs stands. */
export function useVersioned() {
  const ask = useAsk();
  return useCallback(
    async <T,>(mine: unknown, version: string | undefined, put: (version: string | undefined) => Promise<T>): Promise<T | null> => {
      try {
        return await put(version);
      } catch (problem) {
        if (!(problem instanceof Problem) || !problem.changed) throw problem;
        const answer = await ask({
          title: "Somebody else changed this",
          detail: (
            <table className="w-full text-[13px]">
              <thead><tr className="text-left"><th className="pr-3 font-normal text-quiet">What</th><th className="pr-3">Theirs</th><th>Yours</th></tr></thead>
              <tbody>
                {differences(problem.changed.value, mine).map(({ what, theirs, yours }) => (
                  <tr key={what}><td className="pr-3 text-quiet">{what}</td><td className="pr-3">{theirs}</td><td>{yours}</td></tr>
                ))}
              </tbody>
            </table>
          ),
          acts: [{ value: "mine", label: "Keep yours" }],
          cancel: "Keep theirs",
        });
        return answer === "mine" ? put(problem.changed.version) : null;
      }
    },
    [ask],
  );
}
