import type { RefusedEdition, ShelfOrigin, State } from "../../flags/index.ts";
import type { Edition, Place } from "../../shelf/index.ts";

/** Where an edition comes from that is in force, confirmed just now. */
export function originOf({ called }: Place, { set, number }: Edition, stops: number): ShelfOrigin {
  return { kind: "shelf", shelf: called, set, edition: number, stops, kept: false, confirmed: new Date() };
}

/** Which list of stops is in force is told with the edition. */
export function withStopsIn(state: State, number: number): State {
  const { origin } = state;
  return origin.kind === "shelf" ? { ...state, origin: { ...origin, stops: number } } : state;
}

/** Whether it is refused for what it was refused for already. */
export function isSame(one: RefusedEdition | undefined, other: RefusedEdition): boolean {
  return one?.edition === other.edition && one?.why === other.why;
}
