// Exact sets of ids, small in memory.
export { IdSet } from "./id-set.ts";
