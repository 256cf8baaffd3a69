type Numbers = Record<string, unknown>;

/** Whether the shop's record differs from the numbers that a job took of it; what only the shop has does not count. */
export function numbersDiffer(taken: object | null | undefined, record: object | undefined): boolean {
  if (!taken || !record) return false;
  return Object.entries(taken as Numbers).some(([key, value]) => JSON.stringify(value) !== JSON.stringify((record as Numbers)[key]));
}
