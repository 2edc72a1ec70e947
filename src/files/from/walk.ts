import type { Fault } from "../../problems/index.ts";
import {
  type FileName,
  fileName,
  isDefinitionFile,
  isWanted,
  localOverridesFile,
  mayBelong,
  outside,
  suspendedFile,
  twinKey,
  twins,
} from "../file-name.ts";
import type { Entry, EntryFault } from "../files.ts";
import { reasonOf } from "../reason.ts";

/** What is found under a path, links followed. */
export type Found =
  | {
      readonly kind: "file";
      /** The same for all names that lead to one file. */
      readonly identity: string;
      entry(file: string): Entry;
    }
  | { readonly kind: "directory"; readonly real: string }
  /** A link that leads out of the folder, to something of this kind. */
  | { readonly kind: "outside"; readonly isDirectory: boolean }
  /** A pipe, a device, a link to nothing. */
  | { readonly kind: "other"; readonly why?: string };

/** A tree of files with links: a disk, or a commit. */
export interface Tree {
  /** The names in a directory, by its real path. */
  names(directory: string): Promise<readonly string[]>;
  look(directory: string, name: string): Promise<Found>;
}

export interface Walked {
  readonly entries: Map<FileName, Entry>;
  readonly faults: readonly EntryFault[];
  /** Every directory that was listed, by real path. */
  readonly directories: ReadonlySet<string>;
  readonly isListed: boolean;
}

/** Finds all files of a folder that may belong to a set, in path order; each directory and each definition file once. */
export async function walk(tree: Tree, root: string): Promise<Walked> {
  const walking = new Walk(tree);
  await walking.directory(root, "");
  return walking;
}

class Walk implements Walked {
  readonly entries = new Map<FileName, Entry>();
  readonly faults: EntryFault[] = [];
  readonly directories = new Set<string>();
  isListed = false;
  readonly #tree: Tree;
  readonly #definitions = new Set<string>();
  readonly #spellings = new Map<string, string>();

  constructor(tree: Tree) {
    this.#tree = tree;
  }

  async directory(real: string, shown: string): Promise<void> {
    if (this.directories.has(real)) return;
    this.directories.add(real);
    let names: readonly string[];
    try {
      names = await this.#tree.names(real);
    } catch (error) {
      this.#fault(shown || ".", unreadable(shown || ".", error));
      return;
    }
    if (shown === "") this.isListed = true;
    const wanted = names.filter(isWanted).sort();
    // Asked all at once, taken in order: the first of several links to one file is the one that counts.
    const found = wanted.map((name) => this.#tree.look(real, name));
    for (const each of found) each.catch(() => {});
    for (const [i, name] of wanted.entries()) await this.#take(shown === "" ? name : `${shown}/${name}`, found[i]!);
  }

  async #take(shown: string, look: Promise<Found>): Promise<void> {
    let found: Found;
    try {
      found = await look;
    } catch (error) {
      if (mayBelong(shown)) this.#fault(shown, unreadable(shown, error));
      return;
    }
    if (found.kind === "directory" && shown !== suspendedFile) return this.directory(found.real, shown);
    if (found.kind === "outside" ? found.isDirectory || mayBelong(shown) : mayBelong(shown)) this.#file(shown, found);
  }

  #file(shown: string, found: Found): void {
    if (found.kind === "outside") return this.#fault(shown, leadsOut(shown));
    if (found.kind !== "file") return this.#noFile(shown, found.kind === "other" ? found.why : undefined);
    const name = fileName(shown);
    if (typeof name !== "string") return this.#fault(shown, name);
    const twin = this.#spellings.get(twinKey(name));
    if (twin !== undefined) return this.#fault(shown, twins(twin, shown));
    this.#spellings.set(twinKey(name), shown);
    const reserved = reservedName(name);
    if (reserved !== undefined) return this.#fault(shown, reserved);
    if (isDefinitionFile(name)) {
      if (this.#definitions.has(found.identity)) return;
      this.#definitions.add(found.identity);
    }
    this.entries.set(name, found.entry(shown));
  }

  /** Of definitions, what is not a regular file is skipped; a stop or a list that somebody counts on is not. */
  #noFile(shown: string, why: string | undefined): void {
    if (why !== undefined) return this.#fault(shown, unreadable(shown, new Error(why)));
    if (isDefinitionFile(shown) && shown !== suspendedFile) return;
    this.#fault(shown, notRegular(shown));
  }

  #fault(file: string, fault: Fault): void {
    const isStop = file === suspendedFile;
    this.faults.push({ file, fault: isStop ? { ...fault, code: "suspension-fault" } : fault });
  }
}

/** `Suspended.yaml` is a stop on some machines, and not on others. */
function reservedName(name: FileName): Fault | undefined {
  const meant = [suspendedFile, localOverridesFile].find((reserved) => twinKey(name) === reserved);
  if (meant === undefined || meant === name) return undefined;
  return {
    code: "file-name",
    message: `“${name}” is not “${meant}”, and on some machines it is.`,
    found: name,
    expected: meant,
    help: `rename it to ${meant}`,
  };
}

export function unreadable(file: string, error: unknown): Fault {
  return {
    code: "file-unreadable",
    message: `“${file}” cannot be read: ${reasonOf(error)}.`,
    expected: "a file or folder that this process may read",
  };
}

function leadsOut(file: string): Fault {
  return { ...outside(file), message: `“${file}” is a link that leads out of the definition folder.` };
}

export function notRegular(file: string): Fault {
  return {
    code: file === suspendedFile ? "suspension-fault" : "file-unreadable",
    message: `“${file}” is not a regular file.`,
    found: file,
    expected: "a regular file",
  };
}
