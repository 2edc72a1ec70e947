import type { ShelfOrigin } from "../../flags/index.ts";
import type { Edition, Place } from "../../shelf/index.ts";

/** Where an edition comes from that is in force, confirmed just now. */
export function originOf({ called }: Place, { set, number }: Edition, stops: number): ShelfOrigin {
  return { kind: "shelf", shelf: called, set, edition: number, stops, kept: false, confirmed: new Date() };
}
