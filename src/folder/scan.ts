import type { BigIntStats } from "node:fs";
import { lstat, readdir, realpath, stat } from "node:fs/promises";
import { join, relative, sep } from "node:path";
import { limits, type Problem } from "../core.ts";
import { Problems } from "../problems/problem.ts";
import { reasonOf } from "./read-text.ts";

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
  /** When it was changed last, epoch milliseconds. */
  readonly changed: number;
}

export interface FolderScan {
  /** The folder's real path; undefined when there is none. */
  readonly root: string | undefined;
  readonly definitions: readonly FoundFile[];
  readonly suspended: FoundFile | undefined;
  readonly localOverrides: FoundFile | undefined;
  /** Every directory that was looked into, by real path: what a watcher must watch. */
  readonly directories: readonly string[];
  readonly problems: readonly Problem[];
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
      localOverrides: undefined,
      directories: [],
      problems: problems.all,
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
    localOverrides: files.find(({ file }) => file === localOverridesFile),
    directories: [...scan.directories],
    problems: problems.all,
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

function checkCount(definitions: readonly FoundFile[], problems: Problems): void {
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

class Scan {
  readonly files: FoundFile[] = [];
  readonly directories = new Set<string>();
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
    const wanted = names.filter((name) => !name.startsWith(".") && !name.endsWith("~")).sort();
    // Asked all at once, taken in order: the first of several links to one file is the one that counts.
    const entries = wanted.map((name) => ({ name, look: lookAt(join(directory, name)) }));
    for (const { name, look } of entries) await this.#entry(await look, shown === "" ? name : `${shown}/${name}`);
  }

  async #entry(look: Look, shown: string): Promise<void> {
    const isDefinition = /\.(?:yaml|yml|json)$/.test(shown);
    try {
      if ("error" in look) throw look.error;
      const { real, found } = look;
      if (!found.isDirectory() && !(found.isFile() && isDefinition)) return;
      if (real !== this.#root && !real.startsWith(this.#root + sep)) return this.#outside(shown);
      if (found.isDirectory()) return await this.directory(real, shown);
      if (this.#seen.has(real)) return;
      this.#seen.add(real);
      const { size, ino, mtimeNs, ctimeNs } = found;
      this.files.push({
        file: shown,
        path: real,
        stamp: [real, size, ino, mtimeNs, ctimeNs].join(":"),
        size: Number(size),
        changed: Math.max(Number(mtimeNs), Number(ctimeNs)) / 1e6,
      });
    } catch (error) {
      if (isDefinition) this.#unreadable(shown, error);
    }
  }

  #unreadable(file: string, error: unknown): void {
    this.#problems.report(
      "file-unreadable",
      { file, path: [] },
      {
        message: `“${file}” cannot be read: ${reasonOf(error)}.`,
        expected: "a file or folder that this process may read",
      },
    );
  }

  #outside(file: string): void {
    this.#problems.report(
      "outside-folder",
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
  const path = join(folder, file);
  const near = relative(process.cwd(), path);
  return near.startsWith("..") ? path : near;
}
