import type { Print } from "../../api/client";

export type Way = Print["way"];
