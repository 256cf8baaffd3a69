/** A day in words: today, tomorrow, or by its name. */
export function dayOf(at: string | Date, now = new Date()): string {
  const date = typeof at === "string" ? new Date(at) : at;
  const days = Math.round((startOfDay(date) - startOfDay(now)) / 86_400_000);
  if (days === 0) return "today";
  if (days === 1) return "tomorrow";
  if (days === -1) return "yesterday";
  return date.toLocaleDateString("en-GB", { weekday: "short", day: "numeric", month: "short", ...(Math.abs(days) > 300 ? { year: "numeric" as const } : {}) });
}

/** Hours and minutes of the day. */
export const clockOf = (at: string | Date) => new Date(at).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit", hourCycle: "h23" });

/** Milliseconds at which the day of a date begins. */
export const startOfDay = (date: Date) => new Date(date.getFullYear(), date.getMonth(), date.getDate()).getTime();

/** A date as the browser's own field has it, in the local clock. */
export function fieldOf(at: string | null): string {
  if (!at) return "";
  const date = new Date(at);
  const two = (n: number) => String(n).padStart(2, "0");
  return `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}T${two(date.getHours())}:${two(date.getMinutes())}`;
}

/** What was typed into such a field, with its zone; null for nothing. */
export const fromField = (text: string): string | null => (text ? new Date(text).toISOString() : null);
