import { useQuery } from "@tanstack/react-query";

import { api, ask, type Schemas } from "../api/client";

/** A name for work that may take a while: under it one asks how far it is, and cancels it. */
export const newTicket = () => crypto.randomUUID?.() ?? `t-${Date.now().toString(36)}-${Math.random().toString(36).slice(2, 10)}`;

/** Stops it; a search ends with the best so far, unless nobody wants that. */
export function cancelWork(ticket: string, best = true) {
  void api.DELETE("/api/readings/{ticket}", { params: { path: { ticket }, query: { best } } });
}

/** What is being done under a ticket, and about how far it is. */
export function useWork(ticket: string | null, everyMs = 300) {
  const query = useQuery({
    queryKey: ["reading", ticket],
    enabled: ticket !== null,
    refetchInterval: everyMs,
    retry: false,
    gcTime: 0,
    queryFn: () => ask<Schemas["ReadingView"]>(api.GET("/api/readings/{ticket}", { params: { path: { ticket: ticket! } } })),
  });
  return query.data;
}

/** A bar over the bench while a change takes more than a moment. */
export function WorkBar({ ticket, stop = "Cancel" }: { ticket: string | null; stop?: string }) {
  const work = useWork(ticket);
  if (!ticket || !work) return null;
  return (
    <div role="status" className="fade fixed bottom-4 left-1/2 z-40 flex w-[380px] -translate-x-1/2 items-center gap-3 rounded-md border border-act bg-paper px-3 py-2 shadow-lg">
      <span className="grow">
        <span className="block">{work.doing} …</span>
        <progress className="h-1.5 w-full accent-act" value={work.share} aria-label={work.doing} />
      </span>
      <button type="button" className="rounded-md border border-stop px-2.5 py-1 text-stop hover:bg-stop-pale" onClick={() => cancelWork(ticket)}>
        {stop}
      </button>
    </div>
  );
}
