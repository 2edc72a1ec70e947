// Exact sets of ids, small in memory.
export { buffersOf, IdSet, type PackedIds } from "./id-set.ts";
