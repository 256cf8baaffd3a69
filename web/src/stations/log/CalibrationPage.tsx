import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { call, type Schemas, sendFile, urlOf } from "../../api/client";
import { LightTable } from "../../bench/LightTable";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { FileButton } from "../../ui/FileButton";
import { useNotice } from "../../ui/Notice";
import { Section } from "../../ui/Reading";
import { EmptyTable, Station } from "../Station";

type Page = Schemas["VernierView"];
type Comb = keyof Schemas["VernierReading"];

const COMBS: { name: Comb; label: string }[] = [
  { name: "head", label: "Top, across" },
  { name: "foot", label: "Bottom, across" },
  { name: "left", label: "Left, along" },
  { name: "right", label: "Right, along" },
];
const MOST = 1.2;
const UNDER_WAY = ["queued", "printing", "waiting", "cutting"];
const DOING: Record<string, string> = { queued: "Waiting for the printer …", printing: "Printing the page …", waiting: "Waiting for the plotter …", cutting: "Cutting the combs …" };

/** One sheet that calibrates a plotter: printed, cut, and read off four combs. */
export function CalibrationPage({ plotter, onBack }: { plotter: string; onBack: () => void }) {
  const { job } = useJob();
  const tell = useNotice();
  const client = useQueryClient();
  const path = { job_id: job.id };
  const key = ["calibration page", job.id];
  const { data: page } = useQuery({
    queryKey: key,
    queryFn: ({ signal }) => call("get_calibration_page", { path, signal }),
    refetchInterval: (query) => (UNDER_WAY.includes(query.state.data?.state ?? "") ? 700 : false),
  });
  const [read, setRead] = useState<Partial<Record<Comb, number>>>({});
  const [scanned, setScanned] = useState<Schemas["VernierScan"] | null>(null);
  const [reading, setReading] = useState(false);
  if (!page) return null;
  const put = (asked: Promise<Page>) =>
    void asked
      .then((now) => client.setQueryData(key, now))
      .then(() => client.invalidateQueries({ queryKey: ["calibration"] }))
      .catch(tell);
  const under = UNDER_WAY.includes(page.state);
  const isCut = page.state === "cut" || page.state === "read";
  const shown = { ...page.readings, ...read };
  const all = COMBS.every(({ name }) => shown[name] !== undefined);
  const set = (name: Comb, mm: number) => {
    setScanned(null);
    setRead({ ...read, [name]: mm });
  };
  const step = (name: Comb, by: number) => {
    const next = Math.round(((shown[name] ?? 0) + by) * 20) / 20;
    if (Math.abs(next) <= MOST) set(name, next);
  };
  const scan = (file: File) => {
    setReading(true);
    void sendFile("post_calibration_scan", path, file)
      .then((seen) => {
        setScanned(seen);
        setRead(seen.readings);
      })
      .catch(tell)
      .finally(() => setReading(false));
  };
  const told = (mm: number) => {
    const value = Math.round(mm * 100) / 100;
    return `${value > 0 ? "+" : value < 0 ? "−" : ""}${Math.abs(value).toFixed(2)} mm`;
  };
  return (
    <Station
      table={
        page.has_picture && isCut ? (
          <LightTable box={{ x: 0, y: 0, width: page.width_mm, height: page.height_mm }} subject={`calibration ${page.id}`} label={`calibration page · ${plotter}`} layers={[]}>
            {() => <image href={`${urlOf("get_calibration_picture", path)}?${page.id}`} width={page.width_mm} height={page.height_mm} preserveAspectRatio="none" />}
          </LightTable>
        ) : (
          <EmptyTable>{under ? DOING[page.state] : page.state === "printed" ? `Lay the printed page into ${plotter} as any sheet, and cut it.` : "A page with four printed combs. The plotter cuts four more beside them, whose teeth stand a tenth of a mm closer."}</EmptyTable>
        )
      }
    >
      <Section title={`Calibration page of ${plotter}`}>
        {page.message && <p role="alert" className="px-3.5 pb-1.5 text-stop">{page.message}</p>}
        {under && <p role="status" className="px-3.5 py-1">{DOING[page.state]}</p>}
        {!under && !isCut && (
          <p className="flex flex-wrap gap-1.5 px-3.5 py-1.5">
            <Button kind={page.state === "printed" ? "plain" : "act"} onClick={() => put(call("post_calibration_page", { path }))}>{page.state === "printed" ? "Print it again" : "Print the page"}</Button>
            {page.state === "printed" && <Button kind="act" onClick={() => put(call("post_calibration_cut", { path }))}>It lies in the plotter: cut it</Button>}
          </p>
        )}
        {page.state === "printed" && <p className="px-3.5 pb-1 text-[12.5px] text-quiet">Blades cut: keep hands and hair off the moving carriage, and follow the maker&rsquo;s manual.</p>}
        {isCut && (
          <>
            <p className="px-3.5 pb-1">Find the tooth of each comb where cut and print are one line, and take the number printed beside it. Between two teeth, take the middle. Or scan the page on a flatbed at 300 ppi.</p>
            <p className="px-3.5 pb-1"><FileButton label="Scan of the cut calibration page" accept="image/*" onFile={scan}>Read a scan …</FileButton></p>
            <p role="status" className="px-3.5 pb-1 text-[12.5px] text-quiet">{reading ? "Reading the combs …" : scanned ? `Read from the scan, each to ${scanned.reads_to_mm.toFixed(2)} mm.` : ""}</p>
            <ul>
              {COMBS.map(({ name, label }) => (
                <li key={name} className="px-3.5 py-1" role="group" aria-label={label}>
                  <span className="block text-quiet">{label}</span>
                  <span className="flex items-center gap-1.5">
                    <button type="button" aria-label="Less" onClick={() => step(name, -0.05)} className="size-7 rounded border border-rule bg-paper hover:border-act">−</button>
                    <input
                      type="range"
                      aria-label={`${label}, mm`}
                      min={-MOST}
                      max={MOST}
                      step={0.05}
                      value={shown[name] ?? 0}
                      onChange={(event) => set(name, Number(event.target.value))}
                      className="min-w-0 flex-1 accent-act"
                    />
                    <button type="button" aria-label="More" onClick={() => step(name, 0.05)} className="size-7 rounded border border-rule bg-paper hover:border-act">+</button>
                    {shown[name] === undefined ? (
                      <button type="button" onClick={() => set(name, 0)} className="w-[74px] text-right text-[13px] text-act underline">it is 0</button>
                    ) : (
                      <span className="figure w-[74px] text-right text-[13px]">{told(shown[name]!)}</span>
                    )}
                  </span>
                </li>
              ))}
            </ul>
            <p className="flex flex-wrap gap-1.5 px-3.5 py-1.5">
              <Button kind="act" disabled={!all} onClick={() => put(call("put_calibration_reading", { path, body: { ...(shown as Schemas["VernierReading"]), reads_to_mm: scanned?.reads_to_mm ?? page.reads_to_mm } }).then((now) => (setRead({}), setScanned(null), now)))}>Apply the correction</Button>
              <Button onClick={() => put(call("post_calibration_page", { path }))}>Print a new page</Button>
            </p>
            {page.state === "read" && Object.keys(read).length === 0 && <p role="status" className="px-3.5 pb-1 text-good">It is taken out of every cut of {plotter} from now on.</p>}
          </>
        )}
      </Section>
      <div className="flex flex-wrap gap-1.5 px-3.5 py-2">
        <Button onClick={onBack}>Back to the log</Button>
        <a className="py-1.5 text-act underline" href={urlOf("get_calibration_pdf", path)} target="_blank" rel="noreferrer">The page as PDF</a>
      </div>
    </Station>
  );
}
