/**
 * Definitions for many machines: editions are published to a shelf, and followed from it.
 *
 * @module iudex/fleet
 */
export * from "./fleet/index.ts";
export type { EditionKeys, ShelfOptions, ShelfOrigin } from "./runtime/index.ts";
