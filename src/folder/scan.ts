import type { BigIntStats } from "node:fs";
import { lstat, readdir, realpath, stat } from "node:fs/promises";
import { isAbsolute, join, relative, sep } from "node:path";
import { type Problem, Problems } from "../problems/index.ts";
import { limits } from "../values/index.ts";
import { reasonOf } from "./read-text.ts";
import { coarse } from "./settled.ts";

export const suspendedFile = "suspended.yaml";
export const localOverridesFile = "overrides.local.yaml";

/** A file of the folder, before it is read. */
export interface FoundFile {
  /** Relative to the folder, with forward slashes. */
  readonly file: string;
  /** The real path. */
  readonly path: string;
  /** Changes whenever the file does. */
  readonly stamp: string;
  readonly size: number;
  /** When anything of it changed last by the clock of its disk, in epoch milliseconds. */
  readonly changed: number;
}

export interface FolderScan {
  /** The folder's real path; undefined when there is none. */
  readonly root: string | undefined;
  readonly definitions: readonly FoundFile[];
  readonly suspended: FoundFile | undefined;
  /** True only if it is certain that there is no `suspended.yaml`: the folder was listed, and holds no such name. */
  readonly suspendedIsGone: boolean;
  readonly localOverrides: FoundFile | undefined;
  /** Every directory that was looked into, by real path: what a watcher must watch. */
  readonly directories: readonly string[];
  readonly problems: readonly Problem[];
  /** What changed before this instant of the disk's clock would show a change since. */
  readonly settledBefore: number;
}

/** Finds the definition files of a folder, in path order. Nothing outside the folder's real path is looked at. */
export async function scanFolder(folder: string): Promise<FolderScan> {
  const problems = new Problems();
  const root = await realFolder(folder, problems);
  if (root === undefined) {
    return {
      root,
      definitions: [],
      suspended: undefined,
      suspendedIsGone: false,
      localOverrides: undefined,
      directories: [],
      problems: problems.all,
      settledBefore: 0,
    };
  }
  const scan = new Scan(root, problems);
  await scan.directory(root);
  const files = scan.files.sort((a, b) => (a.file < b.file ? -1 : 1));
  const definitions = files.filter(({ file }) => file !== suspendedFile && file !== localOverridesFile);
  checkCount(definitions, problems);
  return {
    root,
    definitions: definitions.slice(0, limits.files),
    suspended: files.find(({ file }) => file === suspendedFile),
    suspendedIsGone: scan.suspendedIsGone,
    localOverrides: files.find(({ file }) => file === localOverridesFile),
    directories: [...scan.directories],
    problems: problems.all,
    settledBefore: files.reduce((newest, { changed }) => Math.max(newest, changed), 0) - coarse,
  };
}

async function realFolder(folder: string, problems: Problems): Promise<string | undefined> {
  try {
    const root = await realpath(folder);
    if ((await stat(root)).isDirectory()) return root;
    problems.report(
      "folder-missing",
      { file: folder, path: [] },
      {
        message: `“${folder}” is a file.`,
        expected: "a folder of definition files",
      },
    );
  } catch (error) {
    problems.report(
      "folder-missing",
      { file: folder, path: [] },
      {
        message: `The definition folder “${folder}” cannot be opened: ${reasonOf(error)}.`,
        expected: "a folder with at least one definition file",
      },
    );
  }
  return undefined;
}

export function checkCount(definitions: readonly FoundFile[], problems: Problems): void {
  if (definitions.length === 0 && problems.all.length === 0) {
    problems.report(
      "folder-empty",
      { file: ".", path: [] },
      {
        message: "The folder holds no definition file.",
        expected: "at least one .yaml, .yml or .json file that begins with iudex: 1",
      },
    );
  }
  if (definitions.length > limits.files) {
    problems.report(
      "too-many-files",
      { file: definitions[limits.files]!.file, path: [] },
      {
        message: "The folder holds too many definition files.",
        found: String(definitions.length),
        expected: `at most ${limits.files}`,
      },
    );
  }
}

/** Is a file, by its path in the folder, one that holds definitions? */
export function isDefinitionFile(path: string): boolean {
  return hasEnding.test(path) && path.split("/").every(isWanted);
}

const hasEnding = /\.(?:yaml|yml|json)$/;

/** Names that are passed over: hidden ones, those that editors leave, and JSON Schemas. */
function isWanted(name: string): boolean {
  return !name.startsWith(".") && !name.endsWith("~") && !name.endsWith(".schema.json");
}

type Look = { readonly real: string; readonly found: BigIntStats } | { readonly error: unknown };

/** The directory is a real path already, so only what is a link itself has to be followed. */
async function lookAt(path: string): Promise<Look> {
  try {
    const found = await lstat(path, { bigint: true });
    if (!found.isSymbolicLink()) return { real: path, found };
    const real = await realpath(path);
    return { real, found: await stat(real, { bigint: true }) };
  } catch (error) {
    return { error };
  }
}

/** One file at the top of a folder's real path: "gone" if there certainly is none, undefined if it cannot be told. */
export async function lookAtFile(root: string, name: string): Promise<FoundFile | "gone" | undefined> {
  const look = await lookAt(join(root, name));
  if ("error" in look) {
    const names = await readdir(root);
    return names.includes(name) ? undefined : "gone";
  }
  const { real, found } = look;
  return found.isFile() && real.startsWith(root + sep) ? foundFile(name, real, found) : undefined;
}

function foundFile(file: string, path: string, { size, ino, mtimeNs, ctimeNs }: BigIntStats): FoundFile {
  return {
    file,
    path,
    stamp: [path, size, ino, mtimeNs, ctimeNs].join(":"),
    size: Number(size),
    changed: Number(ctimeNs / 1_000_000n),
  };
}

class Scan {
  readonly files: FoundFile[] = [];
  readonly directories = new Set<string>();
  suspendedIsGone = false;
  readonly #root: string;
  readonly #problems: Problems;
  readonly #seen = new Set<string>();

  constructor(root: string, problems: Problems) {
    this.#root = root;
    this.#problems = problems;
  }

  async directory(directory: string, shown = ""): Promise<void> {
    if (this.directories.has(directory)) return;
    this.directories.add(directory);
    let names: string[];
    try {
      names = await readdir(directory);
    } catch (error) {
      this.#unreadable(shown || ".", error);
      return;
    }
    if (directory === this.#root) this.suspendedIsGone = !names.includes(suspendedFile);
    const wanted = names.filter(isWanted).sort();
    // Asked all at once, taken in order: the first of several links to one file is the one that counts.
    const entries = wanted.map((name) => ({ name, look: lookAt(join(directory, name)) }));
    for (const { name, look } of entries) await this.#entry(await look, shown === "" ? name : `${shown}/${name}`);
  }

  async #entry(look: Look, shown: string): Promise<void> {
    const isDefinition = hasEnding.test(shown);
    try {
      if ("error" in look) throw look.error;
      const { real, found } = look;
      if (shown === suspendedFile && !found.isFile()) return this.#noFile(shown);
      if (!found.isDirectory() && !(found.isFile() && isDefinition)) return;
      if (real !== this.#root && !real.startsWith(this.#root + sep)) return this.#outside(shown);
      if (found.isDirectory()) return await this.directory(real, shown);
      // Links lead to one file, be they soft or hard.
      const identity = `${found.dev}:${found.ino}`;
      if (this.#seen.has(identity)) return;
      this.#seen.add(identity);
      this.files.push(foundFile(shown, real, found));
    } catch (error) {
      if (isDefinition) this.#unreadable(shown, error);
    }
  }

  #unreadable(file: string, error: unknown): void {
    this.#problems.report(
      file === suspendedFile ? "suspension-fault" : "file-unreadable",
      { file, path: [] },
      {
        message: `“${file}” cannot be read: ${reasonOf(error)}.`,
        expected: "a file or folder that this process may read",
      },
    );
  }

  #noFile(file: string): void {
    this.#problems.report(
      "suspension-fault",
      { file, path: [] },
      {
        message: `“${file}” is no regular file, so the suspensions stay as they were.`,
        expected: "a file, or nothing of that name",
      },
    );
  }

  #outside(file: string): void {
    this.#problems.report(
      file === suspendedFile ? "suspension-fault" : "outside-folder",
      { file, path: [] },
      {
        message: `“${file}” is a link that leads out of the definition folder.`,
        expected: "links that stay inside the folder",
      },
    );
  }
}

/** Tells whether anything that a scan saw has changed. */
export function signatureOf(scan: FolderScan): string {
  const files = [...scan.definitions, scan.suspended, scan.localOverrides];
  const problems = scan.problems.map((p) => `${p.code}:${p.place.file}`);
  return [scan.root ?? "", ...files.map((f) => (f ? `${f.file}:${f.stamp}` : "-")), ...problems].join("\n");
}

/** A path as people write it: relative to where they are, if that is shorter. */
export function shownPath(folder: string, file: string): string {
  const path = file === folder || isAbsolute(file) ? file : join(folder, file);
  const near = relative(process.cwd(), path);
  return near.startsWith("..") ? path : near;
}
