import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { call, previewUrl, type Schemas } from "../../api/client";
import { count } from "../../job/stubs";
import { Button } from "../../ui/Button";
import { Dialog } from "../../ui/Dialog";
import { useNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";
import { ShopFrame } from "../ShopFrame";

type Item = Schemas["ShelfView"];
const PAGE = 60;

/** Finished designs by picture, name and tag; into a job in one step, at one size or several. */
export function ShelfPage() {
  const client = useQueryClient();
  const tell = useNotice();
  const navigate = useNavigate();
  const [words, setWords] = useState("");
  const [most, setMost] = useState(PAGE);
  const [chosen, setChosen] = useState<Item[]>([]);
  const [taking, setTaking] = useState(false);
  const [editing, setEditing] = useState<Item | null>(null);
  const { data: items } = useQuery({
    queryKey: ["shelf", words, most],
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => call("get_shelf", { signal, query: { named: words, most } }),
  });
  const again = () => client.invalidateQueries({ queryKey: ["shelf"] });
  const turn = (item: Item) => setChosen(chosen.some((each) => each.id === item.id) ? chosen.filter((each) => each.id !== item.id) : [...chosen, item]);
  const begin = async (sizes: (number | null)[]) => {
    const take = chosen.flatMap((item) => sizes.map((longest_mm) => ({ item: item.id, longest_mm, copies: 1 })));
    try {
      const { job } = await call("post_from_shelf", { body: { take, title: chosen.length === 1 ? chosen[0]!.name : `${chosen[0]!.name} and ${chosen.length - 1} more`, job: null } });
      void navigate(`/jobs/${job}/sheet`);
    } catch (problem) {
      tell(problem);
    }
  };
  return (
    <ShopFrame>
      <main className="min-h-0 grow overflow-y-auto p-5">
        <div className="flex flex-wrap items-center gap-3 pb-4">
          <h1 className="text-[18px]">Shelf</h1>
          <input aria-label="Find by name or tag" placeholder="Name or tag" value={words} onChange={(event) => setWords(event.target.value)} className="w-64 rounded-md border border-rule bg-paper px-2.5 py-1" />
          <span className="grow text-[12.5px] text-quiet">{chosen.length ? `${count(chosen.length, "design")} chosen` : "Click the designs you want in a job."}</span>
          {chosen.length > 0 && <Button onClick={() => setChosen([])}>None</Button>}
          <Button kind="act" disabled={chosen.length === 0} onClick={() => setTaking(true)}>Add to a new job …</Button>
        </div>
        {items?.length === 0 && (
          <p className="max-w-xl text-quiet">
            {words ? "Nothing on the shelf matches." : "Finished designs are saved here with picture, edits and lines, ready for any job. To add one, open a job, choose a piece at Cut lines, and save it to the shelf."}
          </p>
        )}
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(190px,1fr))] gap-3">
          {(items ?? []).map((item) => <Card key={item.id} item={item} on={chosen.some((each) => each.id === item.id)} onTurn={() => turn(item)} onEdit={() => setEditing(item)} />)}
        </ul>
        {items?.length === most && <p className="pt-4 text-center"><Button onClick={() => setMost(most + PAGE)}>More</Button></p>}
      </main>
      {taking && <SizesForm chosen={chosen} onClose={(sizes) => { setTaking(false); if (sizes) void begin(sizes); }} />}
      {editing && <EditForm item={editing} onClose={() => { setEditing(null); void again(); }} />}
    </ShopFrame>
  );
}

function Card({ item, on, onTurn, onEdit }: { item: Item; on: boolean; onTurn: () => void; onEdit: () => void }) {
  const { length } = useUnits();
  const counted = item.good + item.bad;
  return (
    <li className={`flex flex-col rounded-lg border-2 bg-paper ${on ? "border-act" : "border-transparent ring-1 ring-rule"}`}>
      <button type="button" aria-pressed={on} aria-label={item.name} onClick={onTurn} className="flex grow flex-col p-3 text-left">
        <span className="grid h-32 place-items-center"><img src={previewUrl(item.picture)} alt="" className="max-h-32 max-w-full object-contain" /></span>
        <b className="pt-2 font-head text-[15px] leading-tight font-semibold">{item.name}</b>
        <span className="text-[12.5px] text-quiet">{length(item.longest_mm, 0)} · border {length(item.border_mm, 1)} · {item.stock}</span>
        <span className="text-[12.5px] text-quiet">
          {counted > 0 ? `${Math.round((item.good / counted) * 100)} % of ${counted} good` : "not counted yet"}{item.ordered > 0 && ` · ${item.ordered} ordered`}
        </span>
        {item.rights !== "yes" && <span className="text-[12.5px] text-look">{item.rights === "no" ? "not for sale" : "licence not entered"}</span>}
      </button>
      <span className="flex flex-wrap items-center gap-1 px-3 pb-2">
        {item.tags.map((tag) => <span key={tag} className="rounded-full bg-act-pale px-2 text-[12px] text-act">{tag}</span>)}
        <span className="grow" />
        <button type="button" onClick={onEdit} className="text-[12.5px] text-act underline underline-offset-2">Change …</button>
      </span>
    </li>
  );
}

function SizesForm({ chosen, onClose }: { chosen: Item[]; onClose: (sizes: (number | null)[] | null) => void }) {
  const { unit, toMm } = useUnits();
  const [text, setText] = useState("");
  const [fault, setFault] = useState("");
  const go = () => {
    const typed = text.split(/[\s;]+|,\s+/).filter(Boolean).map((each) => toMm(Number(each.replace(",", "."))));
    if (typed.some((mm) => !(mm >= 5 && mm <= 400))) return setFault("Type sizes such as 60 40 25, each from 5 to 400 mm.");
    onClose(typed.length ? typed : [null]);
  };
  return (
    <Dialog open form title="Add to a new job" description={chosen.map((item) => item.name).join(", ")} onClose={() => onClose(null)}>
      <form className="p-4" onSubmit={(event) => { event.preventDefault(); go(); }}>
        <label className="text-quiet">
          Longest sides in {unit}, one or several; nothing for the size each has
          <input autoFocus value={text} onChange={(event) => setText(event.target.value)} placeholder={chosen.map((item) => item.longest_mm).slice(0, 1).join("")} className="figure mt-1 block w-full rounded border border-rule bg-paper px-2 py-1 text-ink" />
        </label>
        <p className="pt-1 text-[12.5px] text-quiet">Borders and peel margins stay as they are in {unit}; what is too thin at a size is pointed out in the job.</p>
        {fault && <p role="alert" className="text-stop">{fault}</p>}
        <p className="flex justify-end gap-2 pt-3"><Button onClick={() => onClose(null)}>Cancel</Button><Button kind="act" type="submit">Create the job</Button></p>
      </form>
    </Dialog>
  );
}

function EditForm({ item, onClose }: { item: Item; onClose: () => void }) {
  const tell = useNotice();
  const [name, setName] = useState(item.name);
  const [tags, setTags] = useState(item.tags.join(", "));
  const keep = () =>
    void call("put_shelf", { path: { item_id: item.id }, body: { version: item.version, name, tags: tags.split(",").map((tag) => tag.trim()).filter(Boolean) } }).then(onClose).catch(tell);
  const input = "mt-0.5 block w-full rounded border border-rule bg-paper px-2 py-1 text-ink";
  return (
    <Dialog open title={item.name} description={`Version ${item.version}, in ${count(item.jobs, "job")}`} onClose={onClose}>
      <form className="grid gap-2 p-4" onSubmit={(event) => { event.preventDefault(); keep(); }}>
        <label className="text-quiet">Name<input autoFocus value={name} maxLength={120} required onChange={(event) => setName(event.target.value)} className={input} /></label>
        <label className="text-quiet">Tags, with commas between<input value={tags} maxLength={400} onChange={(event) => setTags(event.target.value)} className={input} /></label>
        <p className="flex gap-2 pt-2">
          <Button kind="stop" onClick={() => void call("delete_shelf", { path: { item_id: item.id } }).then(onClose).catch(tell)}>Remove from the shelf</Button>
          <span className="grow" />
          <Button onClick={onClose}>Cancel</Button>
          <Button kind="act" type="submit">Save</Button>
        </p>
      </form>
    </Dialog>
  );
}
