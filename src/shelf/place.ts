import type { Edition, EditionFile } from "./edition.ts";
import type { Follower } from "./roll-call.ts";

// What the places that a shelf can be in have in common.

/** What a shelf says of its newest edition. */
export type Look =
  /** There is none. */
  | { readonly kind: "empty" }
  /** It is the one that is known by the mark, or by another one now. */
  | { readonly kind: "same"; readonly mark?: string }
  | {
      readonly kind: "list";
      /** The list of the edition: a JWS in JSON serialisation. */
      readonly text: string;
      /** By which the same edition is known again. */
      readonly mark: string;
    };

/** A look, and how long whoever looks is asked to wait before the next one. */
export type Looked = Look & {
  /** Milliseconds. */
  readonly wait?: number | undefined;
};

/** How a shelf is reached: in a folder, on a web server, in an engine. */
export interface Place {
  /** What it is called in messages; without passwords. */
  readonly called: string;
  /** The set that it is for; undefined where the first edition seen decides. */
  readonly set: string | undefined;
  /** Milliseconds between two looks. */
  readonly every: number;
  /** @throws {ShelfFault} where it does not answer */
  newest(mark: string | undefined, signal: AbortSignal): Promise<Looked>;
  /** The list of an edition by its number; undefined where it is not there. */
  list(number: number, signal: AbortSignal): Promise<string | undefined>;
  /** The bytes of a file. @throws {ShelfFault} where it is not there */
  bytes(file: EditionFile, signal: AbortSignal): AsyncIterable<Uint8Array>;
  /** Begins to hear of changes; what it gives ends it. */
  hear?(heard: Heard): Hearing;
  /** Where followers can be noted. */
  readonly rollCall?: RollCallPlace;
  /** Undefined where it can only be read. */
  readonly publishing?: PublishingPlace;
}

export interface Heard {
  /** Something may have changed. */
  changed(): void;
  /** Changes will not be heard of for a while; looks go on. */
  failed(reason: string): void;
}

export interface Hearing {
  close(): Promise<void>;
}

/** Where the notes of followers stand; each runs out by itself. */
export interface RollCallPlace {
  /** @param runsOut milliseconds until the note goes by itself */
  note(follower: Follower, runsOut: number): Promise<void>;
  leave(id: string): Promise<void>;
  followers(): Promise<readonly Follower[]>;
}

/** A file that is to be published. */
export interface NewFile extends EditionFile {
  read(): Promise<Uint8Array>;
}

/** Where editions are put. */
export interface PublishingPlace {
  /** Makes what has to be there before the first edition, where anything has. */
  prepare?(): Promise<void>;
  /** Called before anything is looked at; makes what needs nobody's leave. */
  begin?(): Promise<void>;
  /**
   * Puts the files that are not there yet, then the list, which changes last.
   *
   * @param base the number that stands; undefined where the shelf is empty
   * @returns false where another edition has been published on that base meanwhile
   */
  publish(edition: Edition, list: string, files: readonly NewFile[], base: number | undefined): Promise<boolean>;
}
