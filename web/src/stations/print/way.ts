import type { Job } from "../../api/client";

/** How a sheet comes to paper. */
export type Way = Job["way"];
