import type { EditionFile } from "./edition.ts";
import type { Follower, Noted } from "./follower.ts";

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

/** The two lists of a shelf: the newest edition, and what is stopped. */
export type ListName = "edition" | "stops";

/** By which the lists that were read last are known again. */
export type Marks = { readonly [N in ListName]: string | undefined };

/** Both lists at once: neither waits for the other. */
export type BothLooked = { readonly [N in ListName]: Promise<Looked> };

/** How a shelf is reached: in a folder, on a web server, in an engine. */
export interface Place {
  /** What it is called in messages; without passwords. */
  readonly called: string;
  /** The set that it is for; undefined where the first edition seen decides. */
  readonly set: string | undefined;
  /** Milliseconds between two looks. */
  readonly every: number;
  /** Whether caches stand before it, which may show a list that has just been followed by another. */
  readonly isCached?: boolean;
  /** The newest of both lists; each fails with a ShelfFault by itself. */
  newest(marks: Marks, signal: AbortSignal): BothLooked;
  /** A list by its number; undefined where it is not there. */
  list(name: ListName, number: number, signal: AbortSignal): Promise<string | undefined>;
  /** The bytes of a file. @throws {ShelfFault} where it is not there */
  bytes(file: EditionFile, signal: AbortSignal): AsyncIterable<Uint8Array>;
  /** Begins to hear of changes; what it gives ends it. */
  hear?(heard: Heard): Hearing;
  /** Where followers can be noted. */
  readonly presence?: PresencePlace;
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

/** How long a note stays after its process was heard of last, in milliseconds. */
export const noteRunsOut = 86_400_000;

/** Where the notes of followers stand; each runs out by itself. */
export interface PresencePlace {
  note(follower: Follower): Promise<void>;
  leave(id: string): Promise<void>;
  followers(): Promise<readonly Noted[]>;
}

/** A file that is to be published. */
export interface NewFile extends EditionFile {
  read(): Promise<Uint8Array>;
}

/** A list that is to be put. */
export interface NewList {
  readonly name: ListName;
  readonly set: string;
  readonly number: number;
  readonly text: string;
}

/** Where lists are put. */
export interface PublishingPlace {
  /** Makes what has to be there before the first edition, where anything has. */
  prepare?(): Promise<void>;
  /** Called before anything is looked at; makes what needs nobody's leave. */
  begin?(): Promise<void>;
  /**
   * Puts the files that are not there yet, then the list, which changes last.
   *
   * @param base the number of the list that stands; undefined where there is none
   * @returns false where another one has been put on that base in the meantime
   */
  put(list: NewList, files: readonly NewFile[], base: number | undefined): Promise<boolean>;
  /**
   * Removes files that nothing names and nobody has used for a day. Who publishes touches what is used again, and looks once
   * more afterwards, so that what is removed in between is put again.
   *
   * @param named digests of files that stay
   * @returns how many were removed
   */
  forget?(named: ReadonlySet<string>): Promise<number>;
}

/** How long a file stays that nothing names, in milliseconds. */
export const unusedFor = 86_400_000;

/** Where files are put, one after the other. */
export interface FilePlace {
  /** Touches the files that are there, and gives the others. */
  missing(files: readonly NewFile[]): Promise<readonly NewFile[]>;
  putFile(file: NewFile): Promise<void>;
}

/**
 * Puts files and then the list that names them, and puts those again that somebody has removed in between.
 *
 * @param claim puts the list; false if another publisher was quicker
 */
export async function putWith(
  place: FilePlace,
  files: readonly NewFile[],
  claim: () => Promise<boolean>,
): Promise<boolean> {
  const putAll = async () => {
    for (const file of await place.missing(files)) await place.putFile(file);
  };
  await putAll();
  if (!(await claim())) return false;
  await putAll();
  return true;
}

/** Both lists by one query that gives their texts, of which neither is known by more than itself. */
export function bothFrom(texts: Promise<{ readonly [N in ListName]: string | undefined }>, marks: Marks): BothLooked {
  const look = async (name: ListName): Promise<Looked> => {
    const text = (await texts)[name];
    if (text === undefined) return { kind: "empty" };
    return text === marks[name] ? { kind: "same" } : { kind: "list", text, mark: text };
  };
  return { stops: look("stops"), edition: look("edition") };
}
