// Exact sets of ids, small in memory.
export { buffersOf, type IdLookup, IdSet, type PackedIds } from "./id-set.ts";
