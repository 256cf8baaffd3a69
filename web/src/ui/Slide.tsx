import { Slider } from "radix-ui";
import { useEffect, useState } from "react";

interface Props {
  label: string;
  value: number;
  min: number;
  max: number;
  step?: number;
  say?: (value: number) => string;
  onMove?: (value: number) => void;
  onKeep: (value: number) => void;
}

/** A plain number to slide: kept when it is let go. */
export function Slide({ label, value, min, max, step = 1, say = String, onMove, onKeep }: Props) {
  const [now, setNow] = useState(value);
  useEffect(() => setNow(value), [value]);
  return (
    <div className="px-3.5 py-1">
      <div className="flex justify-between">
        <span className="text-quiet">{label}</span>
        <span className="figure text-[13px]">{say(now)}</span>
      </div>
      <Slider.Root
        className="relative flex h-6 touch-none items-center select-none"
        min={min}
        max={max}
        step={step}
        value={[now]}
        onValueChange={([next]) => {
          if (next === undefined) return;
          setNow(next);
          onMove?.(next);
        }}
        onValueCommit={([next]) => next !== undefined && next !== value && onKeep(next)}
      >
        <Slider.Track className="relative h-1 grow rounded bg-[#cfd9d4]">
          <Slider.Range className="absolute h-full rounded bg-act" />
        </Slider.Track>
        <Slider.Thumb aria-label={label} className="block size-4 rounded-full border-2 border-act bg-paper hover:scale-110" />
      </Slider.Root>
    </div>
  );
}
