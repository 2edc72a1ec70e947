import type { Definitions, Suspensions } from "../model/index.ts";
import type { Feed, Feeding } from "./feed.ts";
import type { ShelfOptions } from "./options.ts";
import type { Origin } from "./store.ts";

/** The method by which a shelf is opened. It is the same for all builds of Iudex that a program may have loaded. */
export const open: unique symbol = Symbol.for("iudex.open");

/** Something other than a folder that definitions can be followed from: a shelf. */
export interface Followable {
  /** What it is called in messages; without secrets. */
  readonly called: string;
  /** @internal */
  [open](options: ShelfOptions<unknown>): Promise<Opened>;
}

/** What an opening has found. */
export interface Opened {
  readonly definitions: Definitions;
  /** The stops of a shelf. */
  readonly stops?: Suspensions | undefined;
  readonly origin: Origin;
  /** Begins to feed the flags. */
  feed(feeding: Feeding): StartedFeed;
}

export interface StartedFeed extends Feed {
  /** Awaited before the flags are handed out. */
  start(): Promise<void>;
}
