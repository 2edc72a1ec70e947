import { createRequire } from "node:module";

const load = createRequire(import.meta.url);

/** The calendar, loaded when the first time of day is worked out: most programs start without one. */
export function temporal(): typeof import("temporal-polyfill").Temporal {
  return (load("../cjs/late/temporal.js") as typeof import("./temporal.ts")).temporal();
}

/** Node loads it at the moment at which it is needed. */
export function calendarIsLoaded(): boolean {
  return true;
}

/** Node loads it at the moment at which it is needed. */
export async function loadCalendar(): Promise<void> {}
