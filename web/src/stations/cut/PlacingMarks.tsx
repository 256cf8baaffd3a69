import { useEffect, useRef, useState } from "react";

import { call, type Run, type Schemas, urlOf } from "../../api/client";
import { useAsk } from "../../ui/Ask";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { useInTurn } from "../../ui/useInTurn";
import { useNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";

type Marking = Schemas["MarkingView"];
type Order = Parameters<typeof call<"post_placing">>[1]["body"];

const STEPS = ["10", "1", "0.1", "0.025"] as const;
type Step = (typeof STEPS)[number];
const ARROWS: Record<string, [dx: number, dy: number, label: string, glyph: string, place: string]> = {
  ArrowUp: [0, 1, "Blade away from you", "↑", "col-start-2 row-start-1"],
  ArrowLeft: [-1, 0, "Blade to the left", "←", "col-start-1 row-start-2"],
  ArrowRight: [1, 0, "Blade to the right", "→", "col-start-3 row-start-2"],
  ArrowDown: [0, -1, "Blade towards you", "↓", "col-start-2 row-start-3"],
};
/** Pictures of the sensor show so many mm. */
const SEEN_MM = 16.1;

/** Marks that a person sets: the blade over each by the arrow keys, Enter takes its place. */
export function PlacingMarks({ run, marking }: { run: Run; marking: Marking }) {
  const tell = useNotice();
  const inTurn = useInTurn();
  const ask = useAsk();
  const { length } = useUnits();
  const [step, setStep] = useState<Step>("1");
  const pad = useRef<HTMLDivElement>(null);
  const here = marking.marks[marking.mark];
  const allSet = marking.marks.every((mark) => mark.left_out || mark.by !== null);
  const order = (body: Order) => inTurn(() => call("post_placing", { path: { run_id: run.id }, body }).catch(tell));
  const jog = (arrow: string) => {
    const [dx, dy] = ARROWS[arrow]!;
    order({ do: "jog", dx_mm: dx * Number(step), dy_mm: dy * Number(step) });
  };
  const at = (what: "go" | "take" | "sense" | "leave" | "use", mark = marking.mark) => order({ do: what, mark });
  const cut = async () => {
    const doubts = marking.doubts ?? [];
    const answer = doubts.length
      ? await ask({ title: "Cut by marks that cannot be checked?", detail: <>{doubts.map((doubt) => <p key={doubt} className="pb-1">{doubt}</p>)}</>, acts: [{ value: "cut", label: "Cut by these marks", kind: "stop" }], cancel: "Set the marks" })
      : "cut";
    if (answer) order({ do: "cut", sure: true });
  };
  useEffect(() => pad.current?.focus(), []);
  if (!here) return null;
  return (
    <div className="mx-2.5 mb-2 rounded-md border border-rule bg-paper py-2">
      {marking.said && <p role="status" className="px-2.5 pb-1.5 text-look">{marking.said}</p>}
      <p className="px-2.5">
        Set the <b>blade</b>, not a light spot, over the middle of the <b>{here.name}</b> mark.
      </p>
      <p className="px-2.5 pb-1.5 text-[12.5px] text-quiet">Arrow keys move it, 1 to 4 choose the step, Enter takes its place. Keep the other hand off the carriage.</p>
      <div
        ref={pad}
        role="group"
        tabIndex={0}
        aria-label="Move the blade"
        className="mx-2.5 grid grid-cols-[auto_1fr] items-center gap-3 rounded-md border border-rule p-2"
        onKeyDown={(event) => {
          const chosen = STEPS[Number(event.key) - 1];
          if (ARROWS[event.key]) jog(event.key);
          else if (chosen) setStep(chosen);
          else if (event.key === "Enter" && event.target === event.currentTarget) at("take");
          else return;
          event.preventDefault();
          event.stopPropagation();
        }}
      >
        <div className="grid grid-cols-3 grid-rows-3 gap-1">
          {Object.entries(ARROWS).map(([arrow, [, , label, glyph, place]]) => (
            <button key={arrow} type="button" aria-label={label} onClick={() => jog(arrow)} className={`${place} size-8 rounded-md border border-rule bg-paper hover:border-act`}>
              {glyph}
            </button>
          ))}
        </div>
        {marking.pictures > 0 ? (
          <svg viewBox={`0 0 ${SEEN_MM} ${SEEN_MM}`} className="size-32 justify-self-end rounded-md" role="img" aria-label="View under the blade">
            <image href={`${urlOf("get_close_up", { run_id: run.id })}?${marking.pictures}`} width={SEEN_MM} height={SEEN_MM} />
            <g stroke="#b3261e" strokeWidth={0.1} fill="none">
              <circle cx={SEEN_MM / 2} cy={SEEN_MM / 2} r={0.5} />
              <path d={`M0 ${SEEN_MM / 2}H${SEEN_MM / 2 - 0.5}M${SEEN_MM / 2 + 0.5} ${SEEN_MM / 2}H${SEEN_MM}M${SEEN_MM / 2} 0V${SEEN_MM / 2 - 0.5}M${SEEN_MM / 2} ${SEEN_MM / 2 + 0.5}V${SEEN_MM}`} />
            </g>
          </svg>
        ) : (
          <p className="text-[12.5px] text-quiet">Look at the blade on the plotter.</p>
        )}
        <p className="figure col-span-2 text-[12.5px] text-quiet">
          blade at {length(marking.at_mm[0], 3)} across, {length(marking.at_mm[1], 3)} along
        </p>
      </div>
      <div className="px-2.5 pt-1.5">
        <Choice label="Arrow key step" value={step} options={STEPS.map((each) => ({ value: each, label: `${each} mm` }))} onChange={setStep} />
      </div>
      <p className="flex flex-wrap gap-1.5 px-2.5 py-1.5">
        <Button kind={here.by === null && !here.left_out ? "act" : "plain"} onClick={() => at("take")}>Use this position</Button>
        {marking.has_sensor && <Button onClick={() => at("sense")}>Sense it again</Button>}
        <Button onClick={() => at(here.left_out ? "use" : "leave")}>{here.left_out ? "Use it again" : "Leave it out"}</Button>
      </p>
      <ul aria-label="Marks">
        {marking.marks.map((mark, number) => (
          <li key={mark.name}>
            <button
              type="button"
              aria-pressed={number === marking.mark}
              onClick={() => at("go", number)}
              className="flex w-full items-baseline justify-between gap-2 px-2.5 py-1 text-left hover:bg-act-pale aria-pressed:bg-act-pale"
            >
              <span>{mark.name}</span>
              <span className={`text-[12.5px] ${mark.left_out || mark.by === null ? "text-look" : "text-quiet"}`}>
                {mark.left_out ? "left out" : mark.by === null ? "not set" : `${mark.by === "hand" ? "by hand" : "by the sensor"}${mark.off_mm == null ? "" : `, ${length(mark.off_mm, 3)} off`}`}
              </span>
            </button>
          </li>
        ))}
      </ul>
      {marking.doubts?.map((doubt) => <p key={doubt} role="note" className="px-2.5 pt-1 text-look">{doubt}</p>)}
      {marking.trouble && marking.trouble !== marking.said && <p className="px-2.5 pt-1 text-quiet">{marking.trouble}</p>}
      <p className="px-2.5 pt-1.5">
        <Button kind={marking.trouble === null && allSet ? "act" : "plain"} disabled={marking.trouble !== null} onClick={() => void cut()}>Cut by these marks</Button>
      </p>
    </div>
  );
}
