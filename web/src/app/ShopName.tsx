import { useEffect, useState } from "react";

/** What the shop is called, above every page. */
export function ShopName({ name, onKeep }: { name: string; onKeep: (name: string) => void }) {
  const [text, setText] = useState(name);
  useEffect(() => setText(name), [name]);
  const keep = () => (text.trim() && text.trim() !== name ? onKeep(text.trim()) : setText(name));
  return (
    <label className="flex items-center gap-3 pb-4">
      <span className="text-quiet">Name of the shop</span>
      <input
        value={text}
        maxLength={80}
        onChange={(event) => setText(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => event.key === "Enter" && keep()}
        className="w-72 rounded border border-rule bg-paper px-2 py-1 focus:border-act"
      />
    </label>
  );
}
