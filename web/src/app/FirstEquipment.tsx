import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { call } from "../api/client";
import { SHOP_KEY } from "../job/useShop";
import { Button } from "../ui/Button";
import { useNotice } from "../ui/Notice";
import { useUnits } from "../ui/units";

type Kind = "printers" | "plotters" | "stocks";

/** The first screen of an empty shop: what the person prints with, cuts with and prints on. */
export function FirstEquipment() {
  const client = useQueryClient();
  const tell = useNotice();
  const { size } = useUnits();
  const { data } = useQuery({ queryKey: ["shop", "first"], queryFn: () => call("get_first_choices", {}), staleTime: Infinity });
  const [has, setHas] = useState<Record<Kind, string[]>>({ printers: [], plotters: [], stocks: [] });
  if (!data) return null;
  const missing = (Object.keys(has) as Kind[]).filter((kind) => has[kind].length === 0);
  const begin = () =>
    void call("post_first", { body: has })
      .then((shop) => {
        client.setQueryData(SHOP_KEY, shop);
        void client.invalidateQueries();
      })
      .catch(tell);
  const pick = (kind: Kind, id: string) =>
    setHas((before) => {
      const on = before[kind].includes(id);
      // Either it is here, or it is not.
      const others = before[kind].filter((each) => each !== id && (id === data.not_here ? false : each !== data.not_here));
      return { ...before, [kind]: on ? before[kind].filter((each) => each !== id) : [...others, id] };
    });
  const groups: { kind: Kind; title: string; choices: { id: string; label: string }[] }[] = [
    { kind: "printers", title: "What do you print with?", choices: [...data.printers.map(({ id, name }) => ({ id, label: name })), { id: data.not_here, label: "Not here yet: practise with a simulated one" }] },
    { kind: "plotters", title: "What do you cut with?", choices: [...data.plotters.map(({ id, name }) => ({ id, label: name })), { id: data.not_here, label: "Not here yet: practise with a simulated one" }] },
    { kind: "stocks", title: "What do you print on?", choices: data.stocks.map((each) => ({ id: each.id, label: `${each.name}, ${size(each.width_mm, each.height_mm, 0)}` })) },
  ];
  return (
    <section aria-label="What you have" className="mb-5 rounded-lg border border-act bg-paper p-4">
      <h2 className="text-[18px]">What do you have?</h2>
      <p className="pb-2 text-quiet">Choose everything you have. You can correct the numbers later, under Stocks and machines.</p>
      <div className="grid gap-4 min-[900px]:grid-cols-3">
        {groups.map(({ kind, title, choices }) => (
          <fieldset key={kind}>
            <legend className="font-head pb-1 font-semibold">{title}</legend>
            <ul className="grid gap-1">
              {choices.map(({ id, label }) => (
                <li key={id}>
                  <button
                    type="button"
                    role="checkbox"
                    aria-checked={has[kind].includes(id)}
                    onClick={() => pick(kind, id)}
                    className="flex w-full items-baseline gap-2 rounded-md border border-rule px-2.5 py-1 text-left hover:border-act aria-checked:border-act aria-checked:bg-act-pale"
                  >
                    <span aria-hidden className="grid size-4 shrink-0 self-center place-items-center rounded border border-rule bg-paper text-[11px] text-act">{has[kind].includes(id) ? "✓" : ""}</span>
                    {label}
                  </button>
                </li>
              ))}
            </ul>
          </fieldset>
        ))}
      </div>
      <p className="flex items-center gap-3 pt-3">
        <Button kind="act" disabled={missing.length > 0} onClick={begin}>Start with these</Button>
        {missing.length > 0 && <span className="text-quiet">Still to choose: {missing.map((kind) => ({ printers: "a printer", plotters: "a plotter", stocks: "a stock" })[kind]).join(", ")}.</span>}
      </p>
    </section>
  );
}
