import { useTyped } from "../ui/useTyped";

/** What the shop is called, above every page. */
export function ShopName({ name, onKeep }: { name: string; onKeep: (name: string) => void }) {
  const { input, restore } = useTyped(name, (text) => (text.trim() && text.trim() !== name ? onKeep(text.trim()) : restore()));
  return (
    <label className="flex items-center gap-3 pb-4">
      <span className="text-quiet">Name of the shop</span>
      <input
        {...input}
        maxLength={80}
        className="w-72 rounded border border-rule bg-paper px-2 py-1 focus:border-act"
      />
    </label>
  );
}
