import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, test } from "vitest";

import type { Job, Print } from "../api/client";
import { hear, withWhatIsHeard } from "./heard";
import { upserted } from "./useEvents";

const print = (state: string) => ({ id: 5, state }) as Print;
const jobWith = (state: string) => ({ id: 3, revision: 2, prints: [print(state)] }) as Job;
const states = (job: Job | undefined) => job?.prints.map((each) => each.state);
const printed = (job: Job) => ({ ...job, prints: upserted(job.prints, print("printed")) });

/** An answer that comes when it is told to. */
function slow(answer: Job) {
  let come = () => {};
  const asked = new Promise<void>((done) => (come = done));
  return { ask: () => asked.then(() => answer), come: () => come() };
}

test("an answer that was read before an event and comes after it does not undo what the event told", async () => {
  const client = new QueryClient();
  client.setQueryData(["job", 3], jobWith("out"));
  const stale = slow(jobWith("out"));
  const observer = new QueryObserver<Job>(client, { queryKey: ["job", 3], queryFn: () => withWhatIsHeard(3, stale.ask) });
  const leave = observer.subscribe(() => undefined);
  hear(client, 3, printed);
  expect(states(client.getQueryData(["job", 3]))).toEqual(["printed"]);
  stale.come();
  await observer.refetch({ cancelRefetch: false });
  expect(states(client.getQueryData(["job", 3]))).toEqual(["printed"]);
  leave();
});

test("an event is for the answers that were under way then, and for no other job", async () => {
  const client = new QueryClient();
  const of3 = slow(jobWith("out"));
  const of4 = slow({ ...jobWith("out"), id: 4 });
  const answers = Promise.all([withWhatIsHeard(3, of3.ask), withWhatIsHeard(4, of4.ask)]);
  hear(client, 3, printed);
  of3.come();
  of4.come();
  const [three, four] = await answers;
  expect([states(three), states(four)]).toEqual([["printed"], ["out"]]);
  expect(states(await withWhatIsHeard(3, () => Promise.resolve(jobWith("cancelled"))))).toEqual(["cancelled"]);
});

test("an answer that fails leaves nothing to be told", async () => {
  await expect(withWhatIsHeard(3, () => Promise.reject(new Error("away")))).rejects.toThrow("away");
  hear(new QueryClient(), 3, printed);
  expect(states(await withWhatIsHeard(3, () => Promise.resolve(jobWith("out"))))).toEqual(["out"]);
});
