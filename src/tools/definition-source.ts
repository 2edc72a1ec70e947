import { realpath, stat } from "node:fs/promises";
import { basename, dirname } from "node:path";
import {
  decodeText,
  type FolderContent,
  type FolderScan,
  FolderTools,
  type FoundFile,
  isDefinitionFile,
  judgeContent,
  type Loaded,
  LoadedFile,
  type LoadedList,
  listKey,
  listsIn,
  loadFolder,
  loadList,
  loadSchemas,
  localOverridesFile,
  packIds,
  parseJson,
  parseText,
  readText,
  resultOf,
  type SchemaFile,
  suspendedFile,
} from "../folder/index.ts";
import { IdSet } from "../ids/index.ts";
import { digestOfIds } from "../model/index.ts";
import { Problems } from "../problems/index.ts";
import { listRequests, schemaRequests } from "../reading/index.ts";
import { limits } from "../values/index.ts";
import { Git, type TreeEntry } from "./git/git.ts";
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

/**
 * The definition folder as a commit holds it. Nothing of a commit is ever written: its files are read as git tells them,
 * links and names that lead elsewhere are refused.
 */
export async function loadCommit(git: Git, commit: string): Promise<Loaded> {
  return judgeContent(contentOf(await git.files(commit)));
}

function contentOf(entries: readonly TreeEntry[]): FolderContent {
  const problems = new Problems();
  const texts = new Map<string, string>();
  for (const { path, kind, content } of entries) {
    if (!isWithin(path)) continue;
    const text = kind === "file" ? decodeText(content) : undefined;
    if (text !== undefined) texts.set(path, text);
    else if (isDefinitionFile(path)) reportUnreadable(path, kind, problems);
  }
  return contentFrom(texts, problems);
}

function isWithin(path: string): boolean {
  return path.split("/").every((part) => part !== "" && part !== "." && part !== "..");
}

function reportUnreadable(file: string, kind: TreeEntry["kind"], problems: Problems): void {
  const place = { file, path: [] };
  if (kind === "link")
    problems.report("outside-folder", place, { message: `“${file}” is a link, which is not followed in a commit.` });
  else problems.report("file-not-text", place, { message: "This file is not UTF-8 text.", expected: "UTF-8" });
}

/** A folder's content from texts alone. */
function contentFrom(texts: ReadonlyMap<string, string>, problems: Problems): FolderContent {
  const tools = new FolderTools();
  const found = (file: string): FoundFile => ({ file, path: "", stamp: "", size: 0, changed: 0 });
  const names = [...texts.keys()].filter(isDefinitionFile).sort();
  const definitions = names.filter((name) => name !== suspendedFile && name !== localOverridesFile).map(found);
  const suspended = texts.has(suspendedFile) ? found(suspendedFile) : undefined;
  const files = new Map<string, LoadedFile>();
  for (const each of [...definitions, ...(suspended ? [suspended] : [])]) {
    const text = texts.get(each.file)!;
    files.set(each.file, LoadedFile.of(each, text, parseText(each.file, text)));
  }
  const documents = definitions.map(({ file }) => files.get(file)!.document);
  const lists = new Map<string, LoadedList>();
  for (const request of listRequests(documents, tools.memory)) {
    const text = texts.get(request.file);
    const result = text === undefined ? { fault: noList(request.file) } : resultOf(packIds(text, request));
    lists.set(listKey(request), { request, result, stamp: undefined, path: undefined });
  }
  const schemas = new Map<string, SchemaFile>();
  for (const file of schemaRequests(documents, tools.memory)) {
    const text = texts.get(file);
    if (text !== undefined) schemas.set(file, { data: parseJson(text).data });
  }
  const scan = scanOf("", definitions, suspended, problems);
  return { scan, files, lists, schemas, signature: "", tools };
}

function noList(file: string) {
  return { code: "list-missing" as const, message: `There is no list file “${file}”.`, found: file };
}

function scanOf(
  root: string,
  definitions: readonly FoundFile[],
  suspended: FoundFile | undefined,
  problems: Problems,
): FolderScan {
  return {
    root,
    definitions,
    suspended,
    suspendedIsGone: suspended === undefined,
    localOverrides: undefined,
    directories: [],
    problems: problems.all,
    settledBefore: 1,
  };
}

/** One file on its own: it may name what other files define, and lists that are not there hold nobody. */
async function loadFile(path: string): Promise<Loaded> {
  const text = await readText(path);
  if (typeof text !== "string") throw new ToolError(`“${path}” cannot be read: ${text.message}`);
  const tools = new FolderTools();
  const file = basename(path);
  const found = { file, path, stamp: "", size: text.length, changed: 0 };
  const loaded = LoadedFile.of(found, text, parseText(file, text));
  const root = await realpath(dirname(path));
  const lists = new Map<string, LoadedList>();
  for (const request of listRequests([loaded.document], tools.memory)) {
    const list = await loadList(listsIn(root), request, {
      ...tools,
      left: limits.allListBytes,
      settledBefore: 1,
    });
    const nobody = { ids: IdSet.from([]), digest: digestOfIds([]) };
    lists.set(listKey(request), list.result.fault ? { ...list, result: nobody } : list);
  }
  const schemas = await loadSchemas(root, schemaRequests([loaded.document], tools.memory));
  const scan = scanOf(root, [found], undefined, new Problems());
  const files = new Map([[file, loaded]]);
  return judgeContent({ scan, files, lists, schemas, signature: "", tools }, { incomplete: true });
}
