import type { Schemas } from "../../api/client";

export type Order = Schemas["OrderView"];
