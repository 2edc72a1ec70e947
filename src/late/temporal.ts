import { Temporal } from "temporal-polyfill";

/** The calendar of the Temporal standard. */
export function temporal(): typeof Temporal {
  return Temporal;
}

/** It came with this code. */
export function calendarIsLoaded(): boolean {
  return true;
}

/** It came with this code. */
export async function loadCalendar(): Promise<void> {}
