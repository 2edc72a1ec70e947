/**
 * Gates for servers: who may pass, what a page is handed, streams of changes.
 *
 * @module iudex/http
 */

export {
  type Answering,
  allOf,
  anyOf,
  type Closed,
  type Diversion,
  type FetchGate,
  type FetchHandler,
  fetchGate,
  type GateOptions,
  type Handler,
  type HeldResponse,
  is,
  type JoinedOpenWhen,
  type Middleware,
  type NodeGate,
  nodeGate,
  not,
  type OpenWhen,
  type PageOptions,
  type PageScriptOptions,
  type PageValues,
  type RequestLike,
  type ResponseLike,
  type ResponseOf,
  type StreamOptions,
  type Ways,
} from "./http/index.ts";
