import { type ReactNode, useState } from "react";
import { NavLink, useNavigate } from "react-router";

import { useJobs } from "../job/jobs";
import { useKeys } from "../ui/keys";
import { useSay } from "../ui/Notice";
import { useUnits } from "../ui/units";
import { Header } from "./Header";
import { type Action, Palette } from "./Palette";
import { PLACES } from "./places";

/** A page of the shop: the dark band with the ways to its other pages, and what is on it. */
export function ShopFrame({ actions = [], children }: { actions?: Action[]; children: ReactNode }) {
  const navigate = useNavigate();
  const { begin } = useJobs();
  const { unit, setUnit } = useUnits();
  const [finding, setFinding] = useState(false);
  const say = useSay();
  useKeys({
    "ctrl+k": () => setFinding(true),
    "ctrl+z": () => say("Changes on this page cannot be undone. Ctrl Z works inside a job."),
  });
  const all: Action[] = [
    ...actions,
    { label: "New job", act: () => void begin() },
    ...PLACES.map(({ path, label, words }) => ({ label, words, hint: "shop", act: () => void navigate(path) })),
    { label: `Show lengths in ${unit === "mm" ? "inches" : "millimetres"}`, hint: "setting", act: () => setUnit(unit === "mm" ? "in" : "mm") },
  ];
  return (
    <div className="flex h-full flex-col">
      <Header onFind={() => setFinding(true)} />
      <nav aria-label="The shop" className="flex shrink-0 gap-1 overflow-x-auto border-b border-rule bg-card px-3.5 pt-1.5">
        {PLACES.map(({ path, label }) => (
          <NavLink
            key={path}
            to={path}
            end={path === "/"}
            className={({ isActive }) =>
              `rounded-t-md border border-b-0 px-3 py-1.5 whitespace-nowrap focus-visible:-outline-offset-2 ${isActive ? "border-rule bg-bench font-semibold" : "border-transparent text-quiet hover:bg-paper hover:text-ink"}`
            }
          >
            {label}
          </NavLink>
        ))}
      </nav>
      {children}
      <Palette open={finding} actions={all} onClose={() => setFinding(false)} />
    </div>
  );
}
