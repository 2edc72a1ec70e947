import type { Note } from "./notes.ts";
import type { Told } from "./page-flags.ts";

/** @throws for what is not what a service tells */
export function toldIn(json: string): Told {
  const told = JSON.parse(json) as Told | null;
  if (told?.revision && told.values instanceof Object) return told;
  throw Error(`found ${json.slice(0, 80)}, not values`);
}

/** What the service has written into the page, or what was handed in. */
export function firstTold(first: string | Told | undefined, note: Note): Told | undefined {
  if (typeof first !== "string") return first;
  try {
    return toldIn(document.querySelector(first)!.textContent);
  } catch (error) {
    note("first", error);
    return undefined;
  }
}
