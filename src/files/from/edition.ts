import { type FileName, fileName } from "../file-name.ts";
import { type Entry, type EntryFault, type Files, stampOf } from "../files.ts";

/** A file of a definition folder that is somewhere else, under its digest, and never changes. */
export interface StoredFile {
  /** Where it belongs in the folder. */
  readonly file: string;
  /** Where it is; undefined if it is in memory. */
  readonly path?: string;
  /** SHA-256 of its bytes, as hex. */
  readonly sha256: string;
  /** In bytes. */
  readonly size: number;
  bytes(): Promise<Uint8Array>;
}

/** The files that an edition lists. What is known by its digest stays as it is, so that the digest is its stamp. */
export function filesOfEdition(stored: readonly StoredFile[]): Files {
  const entries = new Map<FileName, Entry>();
  const faults: EntryFault[] = [];
  for (const { file, sha256, ...place } of stored) {
    const name = fileName(file);
    if (typeof name !== "string") faults.push({ file, fault: name });
    else entries.set(name, { file, mark: sha256, stamp: sha256, ...place });
  }
  return { stamp: stampOf(entries), entries, faults, isListed: true };
}
