import type { Schemas } from "../../api/client";

export type Day = Schemas["DayView"];
