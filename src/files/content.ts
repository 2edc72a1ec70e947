import type { Problem } from "../problems/index.ts";
import { FollowedMemory } from "../reading/index.ts";
import type { FileName } from "./file-name.ts";
import type { Entry, Files } from "./files.ts";
import type { LoadedList } from "./lists.ts";
import type { LoadedFile } from "./loaded-file.ts";
import { ReadingWorker } from "./parse/reading-worker.ts";
import type { Texts } from "./places/located.ts";
import type { LoadedSchema } from "./schema-files.ts";

/** What was read of a folder, kept so that the next reading parses only what has changed, wherever that comes from. */
export interface FolderContent {
  readonly source: Files;
  /** The definition files, in path order. */
  readonly definitions: readonly FileName[];
  /** The definition files and the suspensions. */
  readonly files: ReadonlyMap<string, LoadedFile>;
  readonly lists: ReadonlyMap<string, LoadedList>;
  readonly schemas: ReadonlyMap<string, LoadedSchema>;
  /** What is wrong with the folder itself, and with names in it. */
  readonly problems: readonly Problem[];
  /** What readings of this folder hand on to each other. */
  readonly tools: FolderTools;
}

/** What the readings of one folder have in common; nothing of it is shared with another. */
export class FolderTools {
  readonly memory = new FollowedMemory();
  readonly worker = new ReadingWorker();
}

export function textsOf({ files }: FolderContent): Texts {
  return { get: (file) => files.get(file)?.text };
}

/** Packs the texts of files for as long as nobody looks at them, one after the other; nothing waits for it. */
export function putTextsAway({ files }: FolderContent): void {
  const packing = async () => {
    for (const file of files.values()) await file.putAway();
  };
  // A text that cannot be packed stays as it is.
  packing().catch(() => {});
}

/** The files of a set: its definitions, suspensions, lists and schemas, by name; of a fault there is none. */
export function entriesOf({ files, lists, schemas }: FolderContent): Map<FileName, Entry> {
  const entries = new Map<FileName, Entry>();
  for (const { name, entry } of files.values()) entries.set(name, entry);
  for (const { name, entry } of [...lists.values(), ...schemas.values()]) if (name && entry) entries.set(name, entry);
  return entries;
}

/** True if reading again may give something else although no file has changed. */
export function hasFailed({ files, lists, schemas }: FolderContent): boolean {
  return [...files.values(), ...lists.values(), ...schemas.values()].some(({ failed }) => failed);
}

/** True if everything was read again and found to be the same. */
export function holdsTheSame(one: FolderContent, other: FolderContent): boolean {
  if (one.files.size !== other.files.size || one.lists.size !== other.lists.size) return false;
  if (one.schemas.size !== other.schemas.size || one.source.isListed !== other.source.isListed) return false;
  if (one.source.root !== other.source.root) return false;
  if (JSON.stringify(one.problems) !== JSON.stringify(other.problems)) return false;
  for (const [file, { document }] of one.files) if (other.files.get(file)?.document !== document) return false;
  for (const [key, { result }] of one.lists) if (other.lists.get(key)?.result !== result) return false;
  for (const [key, { schema }] of one.schemas)
    if (JSON.stringify(other.schemas.get(key)?.schema) !== JSON.stringify(schema)) return false;
  return true;
}
