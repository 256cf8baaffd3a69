import { useTyped } from "../ui/useTyped";

/** What the shop is called, above every page. */
export function ShopName({ name, onKeep }: { name: string; onKeep: (name: string) => void }) {
  const { input, restore } = useTyped(name, (text) => (text.trim() && text.trim() !== name ? onKeep(text.trim()) : restore()));
  return (
    <label className="flex items-center gap-3 pb-2">
      <span className="w-44 text-quiet">Name of the shop</span>
      <input {...input} maxLength={80} className="w-72 rounded border border-rule bg-paper px-2 py-1 focus:border-act" />
    </label>
  );
}

/** What stands before sums of money. */
export function ShopCurrency({ currency, onKeep }: { currency: string; onKeep: (currency: string) => void }) {
  const { input, restore } = useTyped(currency, (text) => (text.trim() !== currency ? onKeep(text.trim()) : restore()));
  return (
    <label className="flex items-center gap-3 pb-2">
      <span className="w-44 text-quiet">Currency</span>
      <input {...input} maxLength={6} placeholder="€, $, CHF" className="w-24 rounded border border-rule bg-paper px-2 py-1 focus:border-act" />
    </label>
  );
}
