import { useQueryClient } from "@tanstack/react-query";

import { call, PLAIN_LINES } from "../../api/client";
import { type ComesOff, cameOff, comesOff, WAYS_OFF } from "../../job/comesOff";
import { useJob } from "../../job/job";
import { SHOP_KEY, useShop } from "../../job/useShop";
import { useNotice } from "../../ui/Notice";
import { Section } from "../../ui/Reading";

const KISS = "var(--color-kiss)";
const THROUGH = "var(--color-through)";

/** A piece on its backing, with the lines of a way it comes off. */
function Sketch({ way }: { way: ComesOff }) {
  const whole = way === "sheet";
  return (
    <svg width="46" height="36" viewBox="0 0 46 36" aria-hidden className="shrink-0">
      <rect x={whole ? 1 : 0} y={whole ? 1 : 0} width="44" height="34" rx="2" fill="#fff" stroke={whole ? "#cfd9d4" : "none"} />
      {way === "through" ? (
        <rect x="10" y="8" width="26" height="20" rx="9" fill="#f3dfae" stroke={THROUGH} strokeWidth="1.6" strokeDasharray="4 1.6" />
      ) : (
        <rect x="12" y="10" width="22" height="16" rx="7" fill="#f3dfae" stroke={KISS} strokeWidth="1.6" />
      )}
      {(way === "edge" || way === "tab") && (
        <path d={way === "tab" ? "M13 5.5h20q6 0 6 6v13q0 6 -6 6h-5v3.5h-10v-3.5h-5q-6 0 -6 -6v-13q0 -6 6 -6z" : "M13 5.5h20q6 0 6 6v13q0 6 -6 6h-20q-6 0 -6 -6v-13q0 -6 6 -6z"} fill="none" stroke={THROUGH} strokeWidth="1.4" strokeDasharray="4 1.6" />
      )}
      {way === "tear_out" && <rect x="6" y="4.5" width="34" height="27" fill="none" stroke="#7a4b12" strokeWidth="1.4" strokeDasharray="6 1.8" />}
    </svg>
  );
}

/** Keeps how pieces of new jobs come off. */
export function useHabit() {
  const client = useQueryClient();
  const tell = useNotice();
  const habit = useShop()?.habit;
  const keep = (way: ComesOff) => call("put_habit", { body: { comes_off: way } }).then((kept) => client.setQueryData(SHOP_KEY, kept), tell);
  return { habit, keep };
}

/** Asked once: how the pieces of a new job come off. The shop keeps the answer. */
export function ComesOffSection() {
  const { job, change } = useJob();
  const { habit, keep } = useHabit();
  const designs = job.recipe.designs ?? [];
  const answered = designs.some((each) => comesOff({ ...PLAIN_LINES, ...each.lines }, each.peel_mm) !== "sheet");
  if (habit !== null || answered || job.prints.length > 0) return null;
  const answer = (way: ComesOff) => {
    void keep(way);
    if (way === "sheet") return;
    void change(WAYS_OFF.find((each) => each.value === way)!.label, (recipe) => ({
      ...recipe,
      designs: (recipe.designs ?? []).map((each) => {
        const now = { ...PLAIN_LINES, ...each.lines };
        const [own, lines] = cameOff(way, now, each.peel_mm);
        return { ...each, ...own, lines: { ...now, ...lines } };
      }),
    }));
  };
  return (
    <Section title="How do your stickers come off?">
      <ul className="grid gap-1 px-2.5">
        {WAYS_OFF.map(({ value, label, told }) => (
          <li key={value}>
            <button type="button" onClick={() => answer(value)} className="flex w-full items-center gap-3 rounded-md border border-rule bg-paper px-2 py-1 text-left hover:bg-[#f1f6f3]">
              <Sketch way={value} />
              <span>
                <b className="block font-semibold">{label}</b>
                <span className="block text-[12px] leading-tight text-quiet">{told}</span>
              </span>
            </button>
          </li>
        ))}
      </ul>
      <p className="px-3.5 pt-1.5 text-[12.5px] text-quiet">Asked once: new jobs begin so, and each piece can be otherwise.</p>
    </Section>
  );
}
