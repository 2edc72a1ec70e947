import { Temporal } from "temporal-polyfill";

/** The calendar of the Temporal standard. */
export function temporal(): typeof Temporal {
  return Temporal;
}
