export { type FetchFlags, type FetchHandler, fetchFlags } from "./fetch-flags.ts";
export type { PageValues } from "./page-values.ts";
export {
  type Handler,
  type Middleware,
  type RequestFlags,
  type RequestLike,
  type ResponseLike,
  requestFlags,
} from "./request-flags.ts";
export type { Closed, Diversion, PageOptions, RequestOptions, StreamOptions } from "./request-options.ts";
export { allOf, anyOf, is, type JoinedRequirement, not, type Requirement } from "./requirement.ts";
