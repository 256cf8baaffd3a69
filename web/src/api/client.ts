import createClient from "openapi-fetch";

import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Job = Schemas["JobView"];
export type JobSummary = Schemas["JobSummary"];
export type Recipe = Schemas["JobRecipe"];
export type Design = Schemas["DesignRecipe"];
export type DesignFacts = Schemas["DesignView"];
export type Finding = Schemas["Finding"];
export type Lines = Schemas["LinesView"];
export type Placement = Schemas["PlacementView"];
export type Sheets = Schemas["SheetsView"];
export type Print = Schemas["PrintView"];
export type Run = Schemas["RunView"];
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
export type Stand = Schemas["StandRecipe"];
export type Labels = Schemas["LabelRecipe"];
export type TextBox = Schemas["TextBox"];
export type CodeBox = Schemas["CodeBox"];
export type LabelTable = Schemas["TableView"];
export type LabelsView = Schemas["LabelsView"];
export type Painted = Schemas["PaintedView"];
export type Shop = Schemas["ShopView"];
export type Stock = Schemas["StockRecipe"];
export type Printer = Schemas["PrinterRecipe"];
export type Plotter = Schemas["PlotterRecipe"];
export type Offer = Schemas["OfferView"];
export type Setup = Schemas["SetupRecipe"];
export type SizeByUse = Schemas["Size"];

/** A refusal of the API: what happened and what to do (RFC 9457). */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    readonly current?: { revision: number; step: number; recipe: Recipe },
  ) {
    super(`${title} ${detail}`);
  }

  static from(status: number, body: unknown): Problem {
    const told = (body ?? {}) as { title?: string; detail?: string; current?: Problem["current"] };
    return new Problem(
      status,
      told.title ?? "The server did not understand.",
      told.detail ?? "Try again in a moment.",
      told.current,
    );
  }

  static unreachable(): Problem {
    return new Problem(0, "The server does not answer.", "Nothing was lost. Check that Perisect is running, then try again.");
  }
}

export const api = createClient<paths>({ baseUrl: "" });

/** The data of a call, or a thrown `Problem`. The caller names the type: the client's own widens tuples to arrays. */
export async function ask<T>(call: Promise<{ data?: unknown; error?: unknown; response: Response }>): Promise<T> {
  let answer;
  try {
    answer = await call;
  } catch {
    throw Problem.unreachable();
  }
  if (answer.data === undefined) throw Problem.from(answer.response.status, answer.error);
  return answer.data as T;
}

/** Send one picture; `onSent` hears the share of it that has gone. */
export function sendArtwork(file: File, ticket: string, onSent: (share: number) => void): Promise<Artwork> {
  return new Promise((resolve, reject) => {
    const request = new XMLHttpRequest();
    request.open("POST", "/api/artwork");
    request.setRequestHeader("X-Ticket", ticket);
    request.responseType = "json";
    request.upload.onprogress = (event) => event.lengthComputable && onSent(event.loaded / event.total);
    request.onload = () =>
      request.status === 200 ? resolve(request.response as Artwork) : reject(Problem.from(request.status, request.response));
    request.onerror = () => reject(Problem.unreachable());
    const form = new FormData();
    form.append("file", file);
    request.send(form);
  });
}

/** Sends one file as a form; for what the typed client cannot say. */
export async function sendFile<T>(path: string, file: File): Promise<T> {
  const form = new FormData();
  form.append("file", file);
  return ask<T>(
    fetch(path, { method: "PUT", body: form }).then(async (response) => {
      const body: unknown = await response.json();
      return response.ok ? { data: body, response } : { error: body, response };
    }),
  );
}

/** A picture left as it is. */
export const UNMENDED: Mend = {
  page: 1,
  background: "as_is",
  tolerance: 12,
  knock_out: [],
  keep: [],
  picked: [],
  strokes: [],
  drawings: [],
  split: {},
  specks_px2: 0,
  specks_kept: [],
  specks_gone: [],
  enlarge: 1,
};

/** Lines that follow the outline and nothing more. */
export const PLAIN_LINES: LineRecipe = {
  shape: "contour",
  shape_radius_mm: 4,
  corner: "round",
  mitre_limit: 4,
  bridge_mm: 0,
  fill_holes_mm: 0,
  holes_filled: [],
  holes_kept: [],
  radius_mm: 0,
  own: "kiss",
  outer: "through",
  cut_mm: 4,
  tie_mm: 0.6,
  bleed_mm: 0,
  patches: [],
  fit_mm: 0.05,
  keep_corners: true,
  nodes: [],
  extras: [],
  face: "paper",
  knife_offset_mm: 0.25,
};

export const NO_RIGHTS: Rights = { source: "", licence: "", may_be_sold: "unknown" };

/** A picture without its plain background at a tolerance, for as long as a slider moves. */
export const trialUrl = (sha256: string, tolerance: number) => `/api/artwork/${sha256}/trial.png?tolerance=${tolerance}`;

/** A picture as it came or as mended, by its name. */
export const previewUrl = (picture: string) => `/api/artwork/${picture}/preview.png`;
