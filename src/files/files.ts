import { createHash } from "node:crypto";
import type { Fault } from "../problems/index.ts";
import type { FileName } from "./file-name.ts";

/** A definition folder at one moment, wherever it comes from. */
export interface Files {
  /** Two with the same stamp hold the same bytes. Undefined while that cannot be known without reading: then it is read. */
  readonly stamp: string | undefined;
  readonly entries: ReadonlyMap<FileName, Entry>;
  /** Files that would be read and cannot be, such as a link that leads out. */
  readonly faults: readonly EntryFault[];
  /** True if the folder was listed, so that a name that is not here does not exist. */
  readonly isListed: boolean;
  /** The folder's real path, if it is on this disk. */
  readonly root?: string | undefined;
}

/** A file of a folder at one moment. */
export interface Entry {
  /** As its place spells it. */
  readonly file: string;
  /** Changes with every change that the clock of its disk shows. */
  readonly mark: string;
  /** The mark, once no change can hide behind it. */
  readonly stamp: string | undefined;
  /** In bytes. */
  readonly size: number;
  /** Its real path, if it is on this disk. */
  readonly path?: string;
  /** @throws {MovedFault} if it is not what was found any more */
  bytes(signal?: AbortSignal): Promise<Uint8Array>;
}

/** Why a file cannot be read. */
export interface EntryFault {
  readonly file: string;
  readonly fault: Fault;
}

/** A file has changed since it was found. */
export class MovedFault extends Error {
  constructor() {
    super("it has changed while it was read");
  }
}

/** Files from their bytes. */
export function filesFrom(contents: Iterable<readonly [FileName, Uint8Array]>): Files {
  const entries = new Map([...contents].map(([name, bytes]) => [name, entryOf(name, bytes)] as const));
  return { stamp: stampOf(entries), entries, faults: [], isListed: true };
}

/** Files with others in their place; undefined takes one away. Nothing is written. */
export function over(files: Files, changes: ReadonlyMap<FileName, Uint8Array | undefined>): Files {
  const entries = new Map(files.entries);
  for (const [name, bytes] of changes) {
    const before = entries.get(name);
    if (bytes === undefined) entries.delete(name);
    else entries.set(name, { ...entryOf(before?.file ?? name, bytes), ...(before?.path ? { path: before.path } : {}) });
  }
  const faults = files.faults.filter(({ file }) => !changes.has(file as FileName));
  return { ...files, stamp: stampOf(entries), entries, faults };
}

/** Says that each file is what it is; undefined if that is not known of all. */
export function stampOf(entries: Files["entries"]): string | undefined {
  const lines: string[] = [];
  for (const [name, { stamp }] of entries) {
    if (stamp === undefined) return undefined;
    lines.push(`${name}\0${stamp}`);
  }
  return lines.sort().join("\n");
}

function entryOf(file: string, bytes: Uint8Array): Entry {
  const stamp = createHash("sha256").update(bytes).digest("hex");
  return { file, mark: stamp, stamp, size: bytes.length, bytes: async () => bytes };
}
