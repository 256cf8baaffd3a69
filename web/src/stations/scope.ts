import type { Design, Recipe } from "../api/client";
import { useState } from "react";

export type Scope = "all" | "one";

/** Whether a change is for every piece or for the chosen one. */
export function useScope(first: Scope) {
  return useState<Scope>(first);
}

export const withDesigns = (recipe: Recipe, scope: Scope, chosen: string | undefined, changes: Partial<Design>): Recipe => ({
  ...recipe,
  designs: (recipe.designs ?? []).map((design) => (scope === "all" || design.id === chosen ? { ...design, ...changes } : design)),
});

export const SCOPES = [
  { value: "all" as const, label: "All pieces" },
  { value: "one" as const, label: "This piece" },
];
