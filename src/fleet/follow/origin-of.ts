import type { ShelfOrigin } from "../../runtime/index.ts";
import type { Edition } from "../edition.ts";
import type { Place } from "../shelf.ts";

/** Where an edition comes from that is in force, confirmed just now. */
export function originOf({ called }: Place, { set, number }: Edition): ShelfOrigin {
  return { kind: "shelf", shelf: called, set, edition: number, kept: false, confirmed: new Date() };
}
