import { mkdir, mkdtemp, realpath, rm, stat, symlink, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { basename, dirname, join } from "node:path";
import { listRequests } from "../core.ts";
import { type Loaded, loadFolder } from "../folder/index.ts";
import { type LoadedList, listKey, loadList } from "../folder/lists.ts";
import { judgeContent, loadedFile } from "../folder/load.ts";
import { parseText } from "../folder/parse.ts";
import { readText } from "../folder/read-text.ts";
import { IdSet } from "../ids/id-set.ts";
import { digestOfIds } from "../model/revision.ts";
import { Git } from "./git/git.ts";
import { ToolError } from "./tool-error.ts";

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
      `“${text}” is no folder, no file and no revision.`,
      "write a path, or a revision such as HEAD~1, a branch or a tag",
    );
  }
  return { called: text, kind: "commit", loaded: await loadCommit(git, commit) };
}

/** The definition folder as a commit holds it. */
export async function loadCommit(git: Git, commit: string): Promise<Loaded> {
  const home = await mkdtemp(join(tmpdir(), "iudex-"));
  const folder = join(home, "flags");
  try {
    await mkdir(folder);
    for (const { path, kind, content } of await git.files(commit)) {
      const target = join(folder, path);
      await mkdir(dirname(target), { recursive: true });
      if (kind === "file") await writeFile(target, content);
      else await symlink(content.toString(), target).catch(() => {});
    }
    return await loadFolder(folder);
  } finally {
    await rm(home, { recursive: true, force: true });
  }
}

/** One file on its own: it may name what other files define, and lists that are not there hold nobody. */
async function loadFile(path: string): Promise<Loaded> {
  const text = await readText(path);
  if (typeof text !== "string") throw new ToolError(`“${path}” cannot be read: ${text.message}`);
  const file = basename(path);
  const found = { file, path, stamp: "", size: text.length, changed: 0 };
  const loaded = loadedFile(found, text, parseText(file, text));
  const root = await realpath(dirname(path));
  const lists = new Map<string, LoadedList>();
  for (const request of listRequests([loaded.document])) {
    const list = await loadList(root, request);
    const nobody = { ids: IdSet.from([]), digest: digestOfIds([]) };
    lists.set(listKey(request), list.result.fault ? { ...list, result: nobody } : list);
  }
  const scan = {
    root,
    definitions: [found],
    suspended: undefined,
    localOverrides: undefined,
    directories: [],
    problems: [],
  };
  return judgeContent({ scan, files: new Map([[file, loaded]]), lists, signature: "" }, { incomplete: true });
}
