import { useQueryClient } from "@tanstack/react-query";

import { call, PLAIN_LINES } from "../../api/client";
import { cutTypeOf, USUAL_CUT_TYPES, type UsualCutType, withCutType } from "../../job/cutType";
import { useJob } from "../../job/job";
import { SHOP_KEY, useShop } from "../../job/useShop";
import { useNotice } from "../../ui/Notice";
import { Section } from "../../ui/Reading";
import { CutTypePicture } from "./CutTypePicture";

/** The shop's usual cut type, and how to change it. */
export function useUsualCutType() {
  const client = useQueryClient();
  const tell = useNotice();
  const habit = useShop()?.habit;
  const keep = (type: UsualCutType) => call("put_habit", { body: { comes_off: type } }).then((kept) => client.setQueryData(SHOP_KEY, kept), tell);
  return { habit, keep };
}

/** Asked once: how the pieces of a new job are cut. The shop keeps the answer. */
export function UsualCutTypeQuestion() {
  const { job, change } = useJob();
  const { habit, keep } = useUsualCutType();
  const designs = job.recipe.designs ?? [];
  const answered = designs.some((each) => cutTypeOf({ ...PLAIN_LINES, ...each.lines }, each.peel_mm) !== "sheet");
  if (habit !== null || answered || job.prints.length > 0) return null;
  const answer = (type: UsualCutType) => {
    void keep(type);
    if (type === "sheet") return;
    void change(USUAL_CUT_TYPES.find((each) => each.value === type)!.label, (recipe) => ({
      ...recipe,
      designs: (recipe.designs ?? []).map((each) => {
        const now = { ...PLAIN_LINES, ...each.lines };
        const [own, lines] = withCutType(type, now, each.peel_mm);
        return { ...each, ...own, lines: { ...now, ...lines } };
      }),
    }));
  };
  return (
    <Section title="How should your stickers be cut?">
      <ul className="grid gap-1 px-2.5">
        {USUAL_CUT_TYPES.map(({ value, label, told }) => (
          <li key={value}>
            <button type="button" onClick={() => answer(value)} className="flex w-full items-center gap-3 rounded-md border border-rule bg-paper px-2 py-1 text-left hover:bg-[#f1f6f3]">
              <CutTypePicture type={value} />
              <span>
                <b className="block font-semibold">{label}</b>
                <span className="block text-[12px] leading-tight text-quiet">{told}</span>
              </span>
            </button>
          </li>
        ))}
      </ul>
      <p className="px-3.5 pt-1.5 text-[12.5px] text-quiet">Asked once. New jobs start with it, and you can change each piece.</p>
    </Section>
  );
}
