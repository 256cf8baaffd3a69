import { ROUTES } from "./constants";
import type { components, operations } from "./schema";

export { NO_RIGHTS, PLAIN_LINES, PLAIN_TONE, UNMENDED } from "./constants";

export type Schemas = components["schemas"];
export type Job = Schemas["JobView"];
export type JobSummary = Schemas["JobSummary"];
export type Recipe = Schemas["JobRecipe"];
export type Design = Schemas["DesignRecipe"];
export type DesignFacts = Schemas["DesignView"];
export type Finding = Schemas["Finding"];
export type Remedy = NonNullable<Finding["remedy"]>;
export type Lines = Schemas["LinesView"];
export type MovingLines = Schemas["MovingLinesView"];
export type Placement = Schemas["PlacementView"];
export type Sheets = Schemas["SheetsView"];
export type Print = Schemas["PrintView"];
export type Run = Schemas["RunView"];
export type Slip = Schemas["SlipView"];
export type Operation = Schemas["OperationView"];
export type Step = Schemas["StepView"];
export type Mend = Schemas["MendRecipe"];
export type Artwork = Schemas["ArtworkView"];
export type LineRecipe = Schemas["LineRecipe"];
export type NodeEdit = Schemas["NodeRecipe"];
export type ExtraLine = Schemas["ExtraLineRecipe"];
export type Patch = Schemas["PatchRecipe"];
export type Frame = Schemas["FrameRecipe"];
export type Backing = Schemas["BackingRecipe"];
export type Crop = Schemas["CropRecipe"];
export type Stroke = Schemas["Stroke"];
export type Split = Schemas["SplitRecipe"];
export type Rights = Schemas["RightsRecipe"];
export type Piece = Schemas["PieceView"];
export type Tone = Schemas["ToneRecipe"];
export type StockTone = Schemas["ToneView"];
export type SheetAnswer = Schemas["SheetAnswer"];
export type SheetRecipe = Schemas["SheetRecipe"];
export type SetPlace = Schemas["PlacementRecipe"];
export type Labels = Schemas["LabelRecipe"];
export type TextBox = Schemas["TextBox"];
export type CodeBox = Schemas["CodeBox"];
export type LabelTable = Schemas["TableView"];
export type LabelsView = Schemas["LabelsView"];
export type Painted = Schemas["PaintedView"];
export type Shop = Schemas["ShopView"];
export type Stock = Schemas["StockRecord"];
export type Printer = Schemas["PrinterRecord"];
export type Plotter = Schemas["PlotterRecord"];
export type Offer = Schemas["OfferView"];
export type Setup = Schemas["SetupRecipe"];
export type SizeByUse = Schemas["Size"];
export type ProcessRecord = Schemas["ProcessView"];

/** The version that somebody else saved, and the step under which the one that came too late is kept. */
export type OtherVersion = Schemas["RecipeConflict"];

/** A refusal of the API: what happened and what to do (RFC 9457). */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    readonly current?: OtherVersion,
    /** A record of the shop as somebody changed it meanwhile. */
    readonly changed?: { version: string; value: unknown },
  ) {
    super(`${title} ${detail}`);
  }

  static from(status: number, body: unknown): Problem {
    const told = (body ?? {}) as { title?: string; detail?: string; current?: OtherVersion | null; changed?: { version: string; value: unknown } };
    return new Problem(
      status,
      told.title ?? "The server gave an unexpected answer.",
      told.detail ?? "Try again in a moment.",
      told.current ?? undefined,
      told.changed,
    );
  }

  static unreachable(): Problem {
    return new Problem(0, "The server does not answer.", "Nothing was lost. Check that Perisect is running, then try again.");
  }
}

type Key = keyof operations;
type Json<T> = T extends { content: { "application/json": infer Body } } ? Body : undefined;
type Good = 200 | 201 | 202 | 204;
/** What a call answers with when it goes well. */
export type Answer<K extends Key> = {
  [S in keyof operations[K]["responses"] & Good]: Json<operations[K]["responses"][S]>;
}[keyof operations[K]["responses"] & Good];
type Part<K extends Key, P extends "path" | "query"> = operations[K]["parameters"] extends { [N in P]: infer V } ? { [N in P]: V } : { [N in P]?: operations[K]["parameters"][P & keyof operations[K]["parameters"]] };
type BodyPart<K extends Key> = operations[K] extends { requestBody: { content: { "application/json": infer B } } } ? { body: B } : { body?: undefined };
export type Given<K extends Key> = Part<K, "path"> & Part<K, "query"> & BodyPart<K> & { signal?: AbortSignal; waitS?: number; ifMatch?: string };

/** The address of an operation, for what the browser itself asks for: pictures, downloads, streams. */
export function urlOf(key: Key, path: Record<string, string | number> = {}, query: Record<string, unknown> = {}): string {
  const filled = ROUTES[key][1].replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(String(path[name])));
  const asked = new URLSearchParams(Object.entries(query).flatMap(([name, value]) => (value == null ? [] : [[name, String(value)]])));
  return asked.size ? `${filled}?${asked}` : filled;
}

/** Ask the API by the name of an operation; a refusal is thrown as a `Problem`. */
export async function call<K extends Key>(key: K, given: Given<K>): Promise<Answer<K>> {
  const { path, query, body, signal, waitS, ifMatch } = given as { path?: Record<string, string | number>; query?: Record<string, unknown>; body?: unknown; signal?: AbortSignal; waitS?: number; ifMatch?: string };
  const headers: Record<string, string> = waitS === undefined ? {} : { Prefer: `wait=${waitS}` };
  if (ifMatch !== undefined) headers["If-Match"] = `"${ifMatch}"`;
  if (body !== undefined) headers["Content-Type"] = "application/json";
  return (await answered(urlOf(key, path, query), { method: ROUTES[key][0], headers, signal, body: body === undefined ? undefined : JSON.stringify(body) })) as Answer<K>;
}

/** Send one file as a form. */
export async function sendFile<K extends Key>(key: K, path: Record<string, string | number>, file: File): Promise<Answer<K>> {
  const form = new FormData();
  form.append("file", file);
  return (await answered(urlOf(key, path), { method: ROUTES[key][0], body: form })) as Answer<K>;
}

async function answered(url: string, init: RequestInit): Promise<unknown> {
  let response: Response;
  try {
    response = await fetch(url, init);
  } catch (error) {
    if (error instanceof DOMException && error.name === "AbortError") throw error;
    throw Problem.unreachable();
  }
  if (response.status === 401) window.dispatchEvent(new Event("signed-out"));
  const told: unknown = response.status === 204 ? undefined : await response.json().catch(() => null);
  if (!response.ok) throw Problem.from(response.status, told);
  return told;
}

/** Send one picture to a job; `onSent` hears the share of it that has gone. */
export function sendPicture(job: number, file: File, batch: string, position: number, onSent: (share: number) => void): Promise<Operation> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", urlOf("post_picture", { job_id: job }, { batch, position }));
    request.responseType = "json";
    request.upload.onprogress = (event) => event.lengthComputable && onSent(event.loaded / event.total);
    request.onload = () =>
      request.status === 202 ? resolve(request.response as Operation) : reject(Problem.from(request.status, request.response));
    request.onerror = () => reject(Problem.unreachable());
    const form = new FormData();
    form.append("file", file);
    request.send(form);
  });
}

/** A picture without its plain background at a tolerance, for as long as a slider moves. */
export const trialUrl = (sha256: string, tolerance: number) => urlOf("get_trial", { sha256 }, { tolerance });

/** A picture as it came or as mended, by its name. */
export const previewUrl = (picture: string) => urlOf("get_preview", { picture });
