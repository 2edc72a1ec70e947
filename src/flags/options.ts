import type { NameOf, ValueOf } from "../catalogue/index.ts";
import type { Keys } from "./keys.ts";
import type { Variant } from "./overrides.ts";
import type { Pass, PassRules } from "./pass.ts";
import type { WatchTimes } from "./watch-times.ts";

/** What calling code knows at the moment of asking: a plain object of attributes. */
export type Context = object;

/** What a set is asked with, wherever it comes from. */
export interface AskingOptions<C = undefined> {
  /** The environment; required when the set declares any. */
  readonly environment?: string | undefined;
  /** The flags that this program uses; it types `value` and is held against the set. */
  readonly catalogue?: C | undefined;
  /** The time, as epoch milliseconds; `Date.now` by default. */
  readonly clock?: (() => number) | undefined;
  /**
   * True, for tests, development and build steps, throws where otherwise a "problem" is told and things go on: for an
   * unknown flag, a catalogue that the set does not keep, an override that does not fit.
   */
  readonly strict?: boolean | undefined;
  /** The keys by which passes are verified. */
  readonly keysForPasses?: Keys | undefined;
  /** What a good pass must keep, and which ones no longer count. */
  readonly rulesForPasses?: PassRules | undefined;
  /** A secret by which private subjects are told to listeners as a digest, the same for the same id; "•••" without. */
  readonly subjectKey?: string | undefined;
}

/** How a context is pinned. */
export interface PinOptions {
  /** A verified pass; see `verifyPass`. */
  readonly pass?: Pass | undefined;
  /** Tells no "verdict": for looking whether something has changed. False by default. */
  readonly quiet?: boolean | undefined;
}

/** Values by flag, or variants by name: `{ "seat-map": variant("deck") }`. */
export type CodeOverrides<C = undefined> = { readonly [N in NameOf<C>]?: ValueOf<C, N> | Variant };

/** Overrides that are on until they are undone; also for `using`. */
export interface OverrideBlock extends Disposable {
  /** Takes these overrides off; a second time does nothing. */
  undo(): void;
}

/** How a folder is followed. */
export interface FlagsOptions<C = undefined> extends AskingOptions<C> {
  /** False leaves the files alone once they are read. True by default. */
  readonly watch?: boolean | Partial<WatchTimes> | undefined;
  /** A folder for copies of good sets, from which a start succeeds while the files are broken. */
  readonly lastGood?: string | undefined;
  /** The text of IUDEX_OVERRIDES; the process's own by default. */
  readonly overrides?: string | undefined;
}

/** How a shelf is followed. */
export interface ShelfOptions<C = undefined> extends AskingOptions<C> {
  /**
   * The public keys of those who may publish, or a function that gives those of the moment, so that they can rotate.
   * Without them nothing is verified, which a "problem" says once.
   */
  readonly keys?: Keys | undefined;
  /** What its copies are called in `lastGood`, so that several shelves can share it; the address as written if left out. */
  readonly keptAs?: string | undefined;
  /** A folder for copies of good editions, from which a start succeeds while the shelf does not answer. */
  readonly lastGood?: string | undefined;
  /**
   * How long a start waits for a shelf that does not answer while there is no copy: milliseconds, or true for as long as
   * it takes. By default a start fails at once.
   */
  readonly wait?: number | boolean | undefined;
  /**
   * The numbers of the edition and of the list of stops that a start must find at least. A program that starts without
   * `lastGood` has seen nothing yet, and could be shown an older shelf by somebody who stands in between.
   */
  readonly notBefore?: { readonly edition?: number | undefined; readonly stops?: number | undefined } | undefined;
  /** A "problem" is told when the shelf has confirmed nothing for so long; milliseconds, five minutes by default. */
  readonly staleAfter?: number | undefined;
  /** What this program is called in the list of followers; the name of its main file by default. */
  readonly name?: string | undefined;
  /** The path of an `overrides.local.yaml` that counts where the environment allows it. */
  readonly localOverrides?: string | undefined;
  /** The text of IUDEX_OVERRIDES; the process's own by default. */
  readonly overrides?: string | undefined;
}
