import type { NodeKind } from "../model/index.ts";

/** What files give names to. */
export type NamedKind = NodeKind | "environment";

/** What is known of a set beyond what could be read of it. */
export interface Unread {
  /** True when files are missing from the set: anything may be defined there. */
  readonly incomplete: boolean;
  /** Names that files give to what could not be read, such as `flag:storm-mode`. */
  readonly names: ReadonlySet<`${NamedKind}:${string}`>;
}

/** A set that was read whole. */
export const readWhole: Unread = { incomplete: false, names: new Set() };
