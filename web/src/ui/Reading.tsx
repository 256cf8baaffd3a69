import type { ReactNode } from "react";

export function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="border-b border-rule last:border-b-0 pb-2">
      <h2 className="px-3.5 pt-2.5 pb-1 text-[14px]">{title}</h2>
      {children}
    </section>
  );
}

/** One computed figure with its label on the left. */
export function Reading({ label, words = false, children }: { label: ReactNode; words?: boolean; children: ReactNode }) {
  return (
    <div className="flex items-baseline justify-between gap-3 px-3.5 py-1">
      <span className="text-quiet">{label}</span>
      <span className={`text-right ${words ? "" : "figure text-[13px]"}`}>{children}</span>
    </div>
  );
}

/** A row of large figures. */
export function Figures({ items }: { items: { value: ReactNode; label: string }[] }) {
  return (
    <div className="flex gap-5 px-3.5 py-1.5">
      {items.map((item) => (
        <div key={item.label} className="text-[12px] leading-tight text-quiet">
          <b className="figure block text-[21px] font-medium leading-snug text-ink">{item.value}</b>
          {item.label}
        </div>
      ))}
    </div>
  );
}

export function Row({ children }: { children: ReactNode }) {
  return <div className="flex items-center justify-between gap-3 px-3.5 py-1">{children}</div>;
}
