export { FollowedMemory } from "./followed.ts";
// From parsed files to a checked set, step by step, and what one reading hands on to the next.
export { ReadingMemory } from "./memory.ts";
export {
  listRequests,
  openDefinitions,
  type Reading,
  type ReadOptions,
  readDefinitions,
  readInSteps,
  schemaFileOf,
  schemaRequests,
} from "./read.ts";
