/** How long something lasts, in words. */
export function lastsWords(days: number): string {
  if (days < 1) return "lasts less than a day";
  if (days < 14) return `lasts ${Math.round(days)} day${Math.round(days) === 1 ? "" : "s"}`;
  if (days < 120) return `lasts ${Math.round(days / 7)} weeks`;
  return "lasts for months";
}
