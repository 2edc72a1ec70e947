import type { ShelfOptions } from "../flags/index.ts";
import type { Shelf } from "../follow/index.ts";
import type { PublishKey } from "../shelf/index.ts";
import type { WeighRequest } from "../weigh/index.ts";
import type { Visitor } from "./protocol.ts";

/** How what is written at a desk is recorded. */
export type DeskRecord = "files" | "commit" | { readonly branchUnder: string } | DeskShelf;

/** A shelf on which whatever is written is published as its next edition. */
export interface DeskShelf {
  readonly shelf: Shelf;
  /** Signs the editions. */
  readonly key: PublishKey;
  /** Signs the stops, which go to the shelf alone; `key` if left out, which must be for both then. */
  readonly stopKey?: PublishKey | undefined;
}

/** Files that are weighed when somebody asks what came of a flag, and how. */
export interface DeskWeighing
  extends Pick<WeighRequest, "columns" | "measures" | "better" | "guards" | "caps" | "within" | "changed" | "tell"> {
  /** Who got what, and what came of it: CSV or NDJSON. */
  readonly verdicts: string;
  readonly outcomes: string;
}

/** What a desk is made of. */
export interface DeskOptions<Request> {
  /** The definition folder. */
  readonly folder: string;
  /** Who asks; nothing for somebody who is not to know that there is a desk: the answer is then 404. */
  who(request: Request): Visitor | undefined | Promise<Visitor | undefined>;
  /** The path under which the desk is reached, such as "/desk"; "/" if left out. */
  readonly at?: string | undefined;
  /** The host names under which it is reached, without ports; those of this machine for itself if left out. */
  readonly hosts?: readonly string[] | undefined;
  /** The time, as epoch milliseconds; `Date.now` by default. Its pages use it too, whatever the clock of their browser says. */
  readonly clock?: (() => number) | undefined;
  /** The environment that is asked for at first; the last that the definitions declare if left out. */
  readonly environment?: string | undefined;
  /** Files of people, CSV or NDJSON, that may be counted and looked through. No other file is ever read. */
  readonly people?: readonly string[] | undefined;
  /** What came of flags is told from these. */
  readonly weighing?: DeskWeighing | undefined;
  /** True lets nobody change anything, whatever `who` says. */
  readonly readOnly?: boolean | undefined;
  /** Told of what failed in a way that nobody at the page could do anything about. */
  readonly failed?: ((error: unknown) => void) | undefined;
  /**
   * What becomes of a draft that is written, and of a stop: the files alone; a commit of them as well; a commit on a
   * branch of its own, which leaves the files as they are (a stop is written all the same); an edition of a shelf, where a
   * stop goes to the shelf alone. "files" if left out.
   */
  readonly record?: DeskRecord | undefined;
  /** A shelf whose editions can be asked for, and whose followers are shown; that of `record` if left out. */
  readonly shelf?: Shelf | undefined;
  /** The public keys by which its editions are verified; without them nothing is. */
  readonly keys?: ShelfOptions["keys"];
  /** Where drafts are kept; `$XDG_STATE_HOME/iudex/drafts` if left out. */
  readonly drafts?: string | undefined;
  /** What session tokens are made from, where several processes serve one desk; drawn at the start if left out. */
  readonly secret?: string | undefined;
}
