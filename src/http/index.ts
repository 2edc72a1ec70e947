// Gates, page values and streams.
export { FetchGate, type FetchHandler, fetchGate } from "./fetch-gate.ts";
export type { Closed, Diversion, GateOptions, PageOptions, StreamOptions, Ways } from "./gate-options.ts";
export { type Answering, type Handler, type Middleware, NodeGate, nodeGate } from "./node-gate.ts";
export type { HeldResponse, RequestLike, ResponseLike, ResponseOf } from "./node-server.ts";
export { allOf, anyOf, is, type JoinedOpenWhen, not, type OpenWhen } from "./open-when.ts";
export type { PageScriptOptions, PageValues } from "./page-values.ts";
