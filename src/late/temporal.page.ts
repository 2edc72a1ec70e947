import type { Temporal } from "temporal-polyfill";

/** Filled by the import, once for a whole page, as any module is loaded once. */
const loaded: { calendar?: typeof Temporal } = {};

/** The calendar; a page loads it for a set that has windows or dates. @throws {Error} before that */
export function temporal(): typeof Temporal {
  if (loaded.calendar) return loaded.calendar;
  throw new Error("The calendar is not loaded: await openDefinitions(…) with a set that has windows or dates.");
}

export function calendarIsLoaded(): boolean {
  return loaded.calendar !== undefined;
}

export async function loadCalendar(): Promise<void> {
  loaded.calendar ??= (await import("temporal-polyfill")).Temporal;
}
