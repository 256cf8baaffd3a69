import { useId, useState } from "react";

import { call, type Schemas } from "../../api/client";
import { Button } from "../../ui/Button";
import { Choice } from "../../ui/Choice";
import { useNotice } from "../../ui/Notice";

type Item = Schemas["ItemView"];
type What = Schemas["NewMove"]["what"];

/** Enter what came, what was counted, what was lost, or a new blade. */
export function MoveForm({ item, onKept }: { item: Item; onKept: (items: Item[]) => void }) {
  const tell = useNotice();
  const id = useId();
  const fits = item.kind === "blade" || item.kind === "mat";
  const [what, setWhat] = useState<What>(fits ? "fitted" : item.level === null ? "count" : "delivery");
  const [text, setText] = useState("");
  const [note, setNote] = useState("");
  // A key a form: what is sent twice is entered once.
  const [key, setKey] = useState(() => crypto.randomUUID());
  const [fault, setFault] = useState("");
  const [busy, setBusy] = useState(false);
  const options = [
    ...(fits ? [{ value: "fitted" as const, label: item.kind === "blade" ? "New blade" : "New mat" }] : [{ value: "delivery" as const, label: "Delivery" }]),
    { value: "count" as const, label: "Count" },
    ...(fits ? [] : [{ value: "waste" as const, label: "Waste" }]),
  ];
  const asked = text.trim() === "" && what === "fitted" ? (item.settings.pack ?? 0) : Number(text.replace(",", "."));
  const send = async () => {
    if ((text.trim() === "" && what !== "fitted") || !Number.isFinite(asked) || asked < 0 || (asked === 0 && what !== "count")) return setFault(`Type how many ${item.unit}.`);
    setFault("");
    setBusy(true);
    try {
      onKept(await call("post_move", { body: { item: item.item, what, quantity: asked, note, key } }));
      setText("");
      setNote("");
      setKey(crypto.randomUUID());
    } catch (problem) {
      tell(problem);
    }
    setBusy(false);
  };
  return (
    <form
      className="border-t border-rule py-2"
      onSubmit={(event) => {
        event.preventDefault();
        void send();
      }}
    >
      <div className="px-3.5 py-1"><Choice label="What happened" value={what} options={options} onChange={(next) => setWhat(next as What)} /></div>
      <div className="flex items-end gap-2 px-3.5 py-1">
        <label htmlFor={`${id}q`} className="grow text-quiet">
          {what === "count" ? `There are, ${item.unit}` : what === "fitted" ? `It lasts for, ${item.unit}` : item.unit[0]!.toUpperCase() + item.unit.slice(1)}
          <input id={`${id}q`} inputMode="decimal" value={text} placeholder={what === "fitted" ? String(item.settings.pack ?? "") : ""} onChange={(event) => setText(event.target.value)} aria-invalid={fault !== ""} aria-describedby={fault ? `${id}f` : undefined} className="figure mt-0.5 block w-full rounded border border-rule bg-paper px-2 py-1 text-ink" />
        </label>
        <label htmlFor={`${id}n`} className="grow-[2] text-quiet">
          Note
          <input id={`${id}n`} value={note} maxLength={120} onChange={(event) => setNote(event.target.value)} className="mt-0.5 block w-full rounded border border-rule bg-paper px-2 py-1 text-ink" />
        </label>
        <Button kind="act" type="submit" disabled={busy} className="whitespace-nowrap">Enter it</Button>
      </div>
      {fault && <p id={`${id}f`} role="alert" className="px-3.5 text-[12.5px] text-stop">{fault}</p>}
      {what === "fitted" && <p className="px-3.5 text-[12.5px] text-quiet">Switch the plotter off before a blade is changed; old blades go into a box of their own.</p>}
    </form>
  );
}
