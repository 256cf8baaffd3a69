import { Slider } from "radix-ui";
import { useEffect, useId, useState } from "react";

import { lengthTyped } from "./lengths";
import { steady } from "./steady";
import { useLateKeep } from "./useLateKeep";
import { useTyped } from "./useTyped";
import { useUnits } from "./units";

interface Props {
  label: string;
  mm: number;
  min: number;
  max: number;
  /** Where the slider begins and ends; typing goes on from `min` to `max`. */
  from?: number;
  reach?: number;
  step?: number;
  colour?: string;
  /** While it moves. */
  onMove?: (mm: number) => void;
  /** When it is let go, or typed and confirmed. */
  onKeep: (mm: number) => void;
}

/** A length to type or to slide, in the chosen unit. "2in" and "50 mm" are understood in either. */
export const LengthField = steady(function LengthField({ label, mm, min, max, from = min, reach = max, step = 0.1, colour = "var(--color-act)", onMove, onKeep }: Props) {
  const { unit, figure } = useUnits();
  const id = useId();
  const [fault, setFault] = useState<string | null>(null);
  useEffect(() => setFault(null), [mm, figure]);

  const { input, restore } = useTyped(figure(mm), (text) => {
    const typed = lengthTyped(text, unit);
    if (typed === null) return setFault("Type a number, such as 60 or 2.5in.");
    if (typed < min - 1e-6 || typed > max + 1e-6)
      return setFault(`From ${figure(min)} to ${figure(max)} ${unit}.`);
    setFault(null);
    if (Math.abs(typed - mm) > 1e-4) onKeep(Math.round(typed * 1000) / 1000);
    else restore();
  });

  const late = useLateKeep(onKeep, onMove !== undefined);

  return (
    <div className="px-3.5 py-1">
      <div className="flex items-center justify-between gap-3">
        <label htmlFor={id} className="text-quiet">{label}</label>
        <span className="flex items-center rounded border border-rule bg-paper focus-within:border-act">
          <input
            id={id}
            {...input}
            inputMode="decimal"
            aria-invalid={fault !== null}
            aria-describedby={fault ? `${id}-fault` : undefined}
            onFocus={(event) => event.target.select()}
            className="figure w-[74px] bg-transparent py-0.5 pl-2 text-right text-[13px] outline-none"
          />
          <span className="figure px-1.5 text-[11px] text-quiet">{unit}</span>
        </span>
      </div>
      <Slider.Root
        className="relative flex h-6 touch-none items-center select-none"
        min={from}
        max={reach}
        step={step}
        value={[Math.min(Math.max(mm, from), reach)]}
        onValueChange={([value]) => value !== undefined && onMove?.(value)}
        {...late}
      >
        <Slider.Track className="relative h-1 grow rounded bg-[#cfd9d4]">
          <Slider.Range className="absolute h-full rounded" style={{ background: colour }} />
        </Slider.Track>
        <Slider.Thumb
          aria-label={label}
          className="block size-4 rounded-full border-2 bg-paper hover:scale-110"
          style={{ borderColor: colour }}
        />
      </Slider.Root>
      {fault && <p id={`${id}-fault`} role="alert" className="text-[12.5px] text-stop">{fault}</p>}
    </div>
  );
});
