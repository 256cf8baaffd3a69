import { useQuery, useQueryClient } from "@tanstack/react-query";

import { call, type Print, type Schemas, urlOf } from "../../api/client";
import { PROCESSES } from "../../api/constants";
import { LightTable } from "../../bench/LightTable";
import { useJob } from "../../job/job";
import { Button } from "../../ui/Button";
import { Fold } from "../../ui/Fold";
import { useNotice } from "../../ui/Notice";
import { Section } from "../../ui/Reading";
import { EmptyTable, Station } from "../Station";
import { sureOf, unitOf, useSettings } from "./SettingsSection";

type Cut = Schemas["LadderCutView"];
type Answer = Schemas["LadderView"]["answers"][number];

const ANSWERS: { value: Answer; label: string; short: string; on: string }[] = [
  { value: "not_through", label: "Not through", short: "not through", on: "bg-stop-pale border-stop text-stop" },
  { value: "ragged", label: "Ragged", short: "ragged", on: "bg-look-pale border-look text-look" },
  { value: "clean", label: "Clean", short: "clean", on: "bg-act border-act text-white" },
  { value: "liner_marked", label: "Liner marked", short: "liner marked", on: "bg-look-pale border-look text-look" },
  { value: "cut_through", label: "Cut through", short: "cut through", on: "bg-stop-pale border-stop text-stop" },
];
const isUnderWay = (state: Cut["state"] | undefined) => state === "queued" || state === "cutting";

/** A test cut: the ladder on the table, an answer a step, and what they say. */
export function TestCut({ process, print, onBack }: { process: string; print?: Print; onBack: () => void }) {
  const { job } = useJob();
  const tell = useNotice();
  const client = useQueryClient();
  const { settings, key: settingsKey } = useSettings(print);
  const known = settings?.settings.find((each) => each.process === process);
  const title = PROCESSES.find((each) => each.name === process)?.title ?? process;
  const key = ["test cut", known?.test ?? 0];
  const { data: cut } = useQuery({
    queryKey: key,
    enabled: Boolean(known?.test),
    queryFn: ({ signal }) => call("get_test_cut", { path: { test: known!.test! }, signal }),
    refetchInterval: (query) => (isUnderWay(query.state.data?.state) ? 700 : false),
  });
  const put = (asked: Promise<Cut>) =>
    void asked
      .then((now) => client.setQueryData(["test cut", now.id], now))
      .then(() => client.invalidateQueries({ queryKey: settingsKey }))
      .catch(tell);
  const begin = (on_sheet: boolean) => put(call("post_test_cut", { path: { job_id: job.id }, body: { process, print_id: print?.id, on_sheet } }));
  const path = { test: cut?.id ?? 0 };
  const last = cut?.ladders[cut.ladders.length - 1];
  const under = isUnderWay(cut?.state);
  const picture = { width: last?.picture_mm[0] ?? 0, height: last?.picture_mm[1] ?? 0 };
  if (!settings || !known) return null;
  const stock = `${settings.stock}${settings.laminated ? " under film" : ""}`;
  return (
    <Station
      table={
        cut?.has_picture && last && !under ? (
          <LightTable box={{ x: 0, y: 0, ...picture }} subject={`test cut ${cut.id} ${cut.ladders.length}`} label={`test cut · ${title.toLowerCase()} · ${stock}`} layers={[]}>
            {() => (
              <>
                <image href={`${urlOf("get_ladder_picture", path)}?ladder=${cut.ladders.length}`} {...picture} preserveAspectRatio="none" />
                {last.forces.map((force, number) => (
                  <text key={force} x={last.labels[number]?.[0]} y={last.labels[number]?.[1]} fontSize={2.4} textAnchor="middle" className="figure" fill="#16211f">{force}</text>
                ))}
              </>
            )}
          </LightTable>
        ) : (
          <EmptyTable>{under ? "The ladder is being cut. Keep hands and hair off the carriage." : `A ladder of small shapes at rising force shows what cuts ${stock} clean. It is cut ${print ? `where sheet ${print.sheet + 1} is bare, or ` : ""}on a scrap of 120 × 60 mm or more, laid at the plotter's corner.`}</EmptyTable>
        )
      }
    >
      <Section title={`Test cut: ${title.toLowerCase()}, ${stock}`}>
        {(!cut || cut.state === "failed") && (
          <div className="px-3.5 py-1.5">
            {cut?.message && <p role="alert" className="pb-1.5 text-stop">{cut.message}</p>}
            {cut ? (
              <Button kind="act" onClick={() => put(call("post_ladder", { path }))}>Cut the ladder again</Button>
            ) : (
              <BothWays print={print} act onBegin={begin} />
            )}
          </div>
        )}
        {under && <p role="status" className="px-3.5 py-1.5">{cut?.state === "queued" ? "Waiting for the plotter …" : "Cutting the ladder …"}</p>}
        {last && !under && cut.state !== "failed" && (
          <>
            <p className="px-3.5 text-[12.5px] text-quiet">Lift the shapes of each step, and enter how they peeled.{cut.has_picture && " On the picture a pale line is not through, a frayed one ragged; amber is what the blade did to the liner."}</p>
            <Grid key={`${cut.id} ${cut.ladders.length}`} ladder={last} unit={unitOf(settings.force)} onTold={(answers) => put(call("put_answers", { path, body: { answers } }))} />
          </>
        )}
      </Section>
      {cut?.proposal && !under && (
        <Section title="Result">
          <Curve proposal={cut.proposal} />
          {cut.proposal.trouble && <p className="px-3.5 py-1 text-look">{cut.proposal.trouble}</p>}
          <p className="px-3.5 py-1">
            Force <b className="figure">{cut.proposal.force}</b> {unitOf(settings.force)} is {sureOf(cut.proposal.probability_clean)}.{" "}
            {cut.proposal.is_sure ? "No further ladder is needed." : "Another ladder would tell more."}
          </p>
          <p className="flex flex-wrap gap-1.5 px-3.5 py-1.5">
            <Button kind={cut.proposal.is_sure ? "act" : "plain"} onClick={() => put(call("post_take", { path }))}>Use force {cut.proposal.force}</Button>
            <Button kind={cut.proposal.is_sure ? "plain" : "act"} onClick={() => put(call("post_ladder", { path }))}>Another ladder</Button>
          </p>
          {known.is_own && known.source === "test" && <p role="status" className="px-3.5 text-good">In the book: force {known.setting.force}, {known.why}.</p>}
        </Section>
      )}
      {cut && !under && (
        <Fold title="New test cut" told={cut.on_sheet ? "this one is on the sheet" : "this one is on a scrap"}>
          <div className="px-3.5 pb-1.5"><BothWays print={print} onBegin={begin} /></div>
        </Fold>
      )}
      <div className="px-3.5 py-2"><Button onClick={onBack}>Back to the sheet</Button></div>
      <p className="px-3.5 pb-2 text-[12.5px] text-quiet">Blades cut: keep hands and hair off the moving carriage, and follow the maker&rsquo;s manual.</p>
    </Station>
  );
}

/** On the sheet that is going to be cut, or on a scrap of its stock. */
function BothWays({ print, act, onBegin }: { print?: Print; act?: boolean; onBegin: (onSheet: boolean) => void }) {
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      {print && <Button kind={act ? "act" : "plain"} onClick={() => onBegin(true)}>On sheet {print.sheet + 1}, where it is bare</Button>}
      <Button kind={act && !print ? "act" : "plain"} onClick={() => onBegin(false)}>On a scrap</Button>
    </div>
  );
}

/** An answer a step; told as soon as each has one. */
function Grid({ ladder, unit, onTold }: { ladder: Schemas["LadderView"]; unit: string; onTold: (answers: Answer[]) => void }) {
  const client = useQueryClient();
  const store = ["answers", ladder.forces.join()];
  const { data: some } = useQuery<(Answer | null)[]>({ queryKey: store, queryFn: () => ladder.forces.map((_, n) => ladder.answers[n] ?? null), staleTime: Infinity });
  const told = some ?? ladder.forces.map((_, n) => ladder.answers[n] ?? null);
  const say = (step: number, answer: Answer) => {
    const now = told.map((each, n) => (n === step ? answer : each));
    client.setQueryData(store, now);
    if (now.every((each) => each !== null)) onTold(now as Answer[]);
  };
  return (
    <table className="mx-3.5 my-1 w-[calc(100%-28px)] border-separate border-spacing-[3px] text-[12px]">
      <thead>
        <tr>
          <th className="text-left font-normal text-quiet">force {unit}</th>
          {ANSWERS.map((each) => <th key={each.value} className="w-[44px] text-center align-bottom leading-tight font-normal text-quiet">{each.short}</th>)}
        </tr>
      </thead>
      <tbody>
        {ladder.forces.map((force, step) => (
          <tr key={force} role="radiogroup" aria-label={`Force ${force}`}>
            <th scope="row" className="figure text-left font-normal">{force}</th>
            {ANSWERS.map((each) => {
              const on = told[step] === each.value;
              return (
                <td key={each.value}>
                  <button
                    type="button"
                    role="radio"
                    aria-checked={on}
                    aria-label={`Force ${force}: ${each.label}`}
                    onClick={() => say(step, each.value)}
                    className={`block h-6 w-full rounded border ${on ? each.on : "border-rule bg-paper hover:border-act"}`}
                  >
                    {on ? "●" : ""}
                  </button>
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const WIDE = 270;
const HIGH = 92;

/** How probable too little, clean and too much are along the force, and where it is proposed. */
function Curve({ proposal }: { proposal: Schemas["ProposalView"] }) {
  const { forces } = proposal;
  const from = forces[0]!;
  const to = forces[forces.length - 1]!;
  const x = (force: number) => 6 + ((force - from) / (to - from || 1)) * (WIDE - 12);
  const y = (share: number) => HIGH - 16 - share * (HIGH - 26);
  const path = (values: number[]) => values.map((value, n) => `${n ? "L" : "M"}${x(forces[n]!).toFixed(1)} ${y(value).toFixed(1)}`).join("");
  return (
    <figure className="px-3.5 py-1">
      <svg viewBox={`0 0 ${WIDE} ${HIGH}`} className="w-full rounded-md border border-rule bg-paper" role="img" aria-label={`Clean most probably between force ${proposal.window[0].toFixed(1)} and ${proposal.window[1].toFixed(1)}`}>
        <path d={`${path(proposal.clean)}L${x(to)} ${y(0)}L${x(from)} ${y(0)}Z`} fill="#d9eae6" />
        <path d={path(proposal.too_little)} fill="none" stroke="#a3301e" strokeWidth={1.4} strokeDasharray="4 2" />
        <path d={path(proposal.too_much)} fill="none" stroke="#a55f00" strokeWidth={1.4} strokeDasharray="1.5 2" />
        <line x1={x(proposal.force)} x2={x(proposal.force)} y1={6} y2={HIGH - 16} stroke="#0f5c57" strokeWidth={2} />
        <text x={9} y={HIGH / 2} fontSize={9} fill="#a3301e">too little</text>
        <text x={WIDE - 9} y={HIGH / 2} fontSize={9} textAnchor="end" fill="#8a4f00">too much</text>
        <text x={x(from)} y={HIGH - 5} fontSize={9} className="figure" fill="#586762">{from.toFixed(0)}</text>
        <text x={x(to)} y={HIGH - 5} fontSize={9} textAnchor="end" className="figure" fill="#586762">{to.toFixed(0)}</text>
        <text x={x(proposal.force)} y={HIGH - 5} fontSize={9.5} textAnchor="middle" className="figure" fill="#0f5c57">{proposal.force}, {sureOf(proposal.probability_clean)}</text>
      </svg>
    </figure>
  );
}
