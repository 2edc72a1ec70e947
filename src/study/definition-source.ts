import { stat } from "node:fs/promises";
import { basename, dirname } from "node:path";
import {
  Disk,
  fileName,
  filesOfCommit,
  Git,
  isDefinitionFile,
  type Loaded,
  loadFolder,
  readFiles,
  readSet,
  requireFileName,
  ToolError,
} from "../files/index.ts";
import { listRequests, schemaRequests } from "../reading/index.ts";

/** Definitions from somewhere, and what to call that place. */
export interface Source {
  readonly called: string;
  readonly kind: "folder" | "file" | "commit";
  readonly loaded: Loaded;
}

/**
 * Definitions by a text that a person writes: a folder, a single file, or a revision of the repository in which the
 * definition folder lies (a commit, branch, tag, `HEAD~3`).
 *
 * @throws {ToolError} if it is none of these
 */
export async function loadSource(text: string, folder: string): Promise<Source> {
  const found = await stat(text).catch(() => undefined);
  if (found?.isDirectory()) return { called: text, kind: "folder", loaded: await loadFolder(text) };
  if (found?.isFile()) return { called: text, kind: "file", loaded: await loadFile(text) };
  const git = await Git.around(folder);
  const commit = await git.commit(text);
  if (commit === undefined) {
    throw new ToolError(
      `“${text}” is not a folder, a file or a revision.`,
      "write a path, or a revision such as HEAD~1, a branch or a tag",
    );
  }
  return { called: text, kind: "commit", loaded: await loadCommit(git, commit) };
}

/** The definition folder as a commit holds it. Nothing of a commit is ever written. */
export async function loadCommit(git: Git, commit: string, signal?: AbortSignal): Promise<Loaded> {
  return readSet(await filesOfCommit(git, commit, signal), { signal });
}

/** One file on its own: it may name what other files define, and lists that are not there hold nobody. */
async function loadFile(path: string): Promise<Loaded> {
  const disk = new Disk(dirname(path));
  const name = requireFileName(basename(path));
  if (!isDefinitionFile(name))
    throw new ToolError(`“${path}” is not a definition file.`, "name a .yaml, .yml or .json file");
  const alone = await disk.some([name]);
  const { files, tools } = await readFiles(alone);
  const documents = [...files.values()].map(({ document }) => document);
  const named = [
    ...listRequests(documents, tools.memory).map(({ file }) => file),
    ...schemaRequests(documents, tools.memory),
  ];
  const others = named.map(fileName).filter((each) => typeof each === "string");
  const loaded = await readSet(await disk.some([name, ...others]), { incomplete: true });
  loaded.content.tools.worker.close();
  return loaded;
}
