import { ToggleGroup } from "radix-ui";
import type { ReactNode } from "react";

import { steady } from "./steady";

interface Props<T extends string> {
  label: string;
  value: T;
  options: { value: T; label: string; title?: string }[];
  onChange: (value: T) => void;
}

function Few({ label, value, options, onChange }: Props<string>) {
  return (
    <ToggleGroup.Root
      type="single"
      value={value}
      aria-label={label}
      onValueChange={(next) => next && onChange(next)}
      className="inline-flex max-w-full flex-wrap overflow-hidden rounded-md border border-rule bg-paper"
    >
      {options.map((option) => (
        <ToggleGroup.Item
          key={option.value}
          value={option.value}
          title={option.title}
          className="px-2.5 py-1 text-[13px] whitespace-nowrap hover:bg-act-pale focus-visible:-outline-offset-2 data-[state=on]:bg-act data-[state=on]:text-white"
        >
          {option.label}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}

/** One of a few, all in sight. */
export const Choice = steady(Few) as unknown as <T extends string>(props: Props<T>) => ReactNode;
