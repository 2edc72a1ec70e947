/**
 * Gates for servers: who may pass, what a page is handed, streams of changes.
 *
 * @module iudex/http
 */

export {
  allOf,
  anyOf,
  type FetchGate,
  type FetchHandler,
  fetchGate,
  type GateOptions,
  type Handler,
  is,
  type NodeGate,
  nodeGate,
  not,
  type OpenWhen,
  type PageOptions,
  type PageScriptOptions,
  type PageValues,
  type StreamOptions,
} from "./http/index.ts";
