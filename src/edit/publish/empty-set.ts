import type { Definitions } from "../../model/index.ts";

const none = new Map<string, never>();
const nothing = { environments: none, attributes: none, cohorts: none, windows: none, flags: none, suspensions: none };

/** The set that holds nothing: what a first edition is compared with. */
export function emptySet(definitions: Definitions): Definitions {
  return { ...definitions, ...nothing };
}
