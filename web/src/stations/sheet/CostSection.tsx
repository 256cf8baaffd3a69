import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";

import { call } from "../../api/client";
import { useJob } from "../../job/job";
import { useMoney } from "../../job/useShop";
import { Button } from "../../ui/Button";
import { CountField } from "../../ui/CountField";
import { Fold } from "../../ui/Fold";
import { Reading } from "../../ui/Reading";
import { CostParts } from "./CostParts";


/** What draws plots is large, and loaded when a plot is wanted. */
const WhatIf = lazy(() => import("./WhatIf").then((part) => ({ default: part.WhatIf })));

/** What the job costs, part by part, and what a piece would cost at other quantities, sizes and stocks. */
export function CostSection() {
  const { job, selected } = useJob();
  const money = useMoney();
  const design = selected ?? job.recipe.designs?.[0];
  const [quantity, setQuantity] = useState(100);
  const [open, setOpen] = useState(false);
  const [unfolded, setUnfolded] = useState(false);
  const { data } = useQuery({
    queryKey: ["cost", job.id, job.revision, design?.id, quantity],
    enabled: Boolean(design) && (unfolded || open),
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => call("get_job_cost", { signal, path: { job_id: job.id }, query: { design: design!.id, quantity } }),
  });
  if (!design) return null;
  const asked = data?.quantities.find((each) => each.quantity === quantity);
  return (
    <Fold title="Cost and price" told={data?.job ? `${money(data.job.each, 3)} a good one` : "by part"} onOpen={setUnfolded}>
      {data?.job ? (
        <>
          <Reading label={`These sheets, ${data.job.quantity} good`}>{money(data.job.total)}</Reading>
          <Reading label="A good sticker">{money(data.job.each, 3)}</Reading>
          <Reading label="Suggested price for all">{money(data.job.price)}</Reading>
          <CostParts cost={data.job} />
        </>
      ) : (
        <p className="px-3.5 text-quiet">{data ? "Nothing is on the sheets yet." : "Calculating …"}</p>
      )}
      <div className="mx-3.5 my-1 border-t border-dashed border-rule" />
      <CountField label={`${design.name} alone`} value={quantity} min={1} max={20_000} onKeep={setQuantity} />
      {asked && <Reading label="Cost and suggested price">{money(asked.total)} · {money(asked.price)}</Reading>}
      <p className="px-3.5 py-1"><Button onClick={() => setOpen(true)}>By quantity, size and stock …</Button></p>
      {open && data && <Suspense fallback={null}><WhatIf name={design.name} data={data} quantity={quantity} setQuantity={setQuantity} onClose={() => setOpen(false)} /></Suspense>}
    </Fold>
  );
}
