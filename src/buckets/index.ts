// From an id to a position between 0 and 1, and the race that splits.
export { Bucket } from "./bucket.ts";
export { murmur3 } from "./murmur3.ts";
export { type Entrant, Race } from "./race.ts";
