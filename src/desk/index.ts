// The desk: a page over a definition folder, and what answers it.
export { type Desk, deskHandler } from "./desk-handler.ts";
export type { DeskOptions, DeskRecord, DeskShelf, DeskWeighing } from "./options.ts";
export type * from "./protocol.ts";
