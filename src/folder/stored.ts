import { posix } from "node:path";
import { setImmediate } from "node:timers/promises";
import { Problems } from "../problems/index.ts";
import { schemaRequests } from "../reading/index.ts";
import { type FolderContent, FolderTools } from "./content.ts";
import type { SchemaFile } from "./json-schemas.ts";
import { type FindList, faultOfListPath, noSuchList } from "./lists.ts";
import { loadLists } from "./load.ts";
import { loadFiles } from "./load-files.ts";
import {
  checkCount,
  type FolderScan,
  type FoundFile,
  isDefinitionFile,
  localOverridesFile,
  suspendedFile,
} from "./scan.ts";
import { storedSchema } from "./schema-files.ts";

/** A file of a definition folder that stands somewhere else, under its digest, and never changes. */
export interface StoredFile {
  /** Where it belongs in the folder, with forward slashes. */
  readonly file: string;
  /** Where it stands. */
  readonly path: string;
  /** SHA-256 of its bytes, as hex. */
  readonly sha256: string;
  /** In bytes. */
  readonly size: number;
}

/**
 * Reads files that make up a definition folder as such a folder is read; what `before` holds of them already is not
 * read again.
 */
export async function readStored(stored: readonly StoredFile[], before?: FolderContent): Promise<FolderContent> {
  const tools = before?.tools ?? new FolderTools();
  const byName = new Map(stored.map((each) => [each.file, each]));
  const scan = scanOf(stored);
  const files = await loadFiles(scan, tools, { before: before?.files });
  const documents = scan.definitions.map(({ file }) => files.get(file)!.document);
  // What has changed is held against the shapes now, which takes a while in itself.
  await setImmediate();
  const known = { before: before?.lists, good: undefined, restless: new Set<string>(), settledBefore };
  const lists = await loadLists(listsAmong(byName), documents, tools, known);
  const schemas = new Map<string, SchemaFile>();
  for (const file of schemaRequests(documents, tools.memory))
    schemas.set(file, await storedSchema(file, byName.get(nameInFolder(file))?.path));
  const signature = stored.map(({ file, sha256 }) => `${file}:${sha256}`).join("\n");
  return { scan, files, lists, schemas, tools, signature };
}

/** The name of a file in its folder, however a cohort or a flag writes the path: `./lists//crew.csv` is `lists/crew.csv`. */
export function nameInFolder(path: string): string {
  return posix.normalize(path);
}

function scanOf(stored: readonly StoredFile[]): FolderScan {
  const problems = new Problems();
  const found = stored.filter(({ file }) => isDefinitionFile(file)).map(foundFile);
  const definitions = found.filter(({ file }) => file !== suspendedFile && file !== localOverridesFile);
  checkCount(definitions, problems);
  const suspended = found.find(({ file }) => file === suspendedFile);
  return {
    root: "",
    definitions: definitions.sort((a, b) => (a.file < b.file ? -1 : 1)),
    suspended,
    suspendedIsGone: suspended === undefined,
    localOverrides: undefined,
    directories: [],
    problems: problems.all,
    settledBefore,
  };
}

/** What is known by its digest would always show a change. */
const settledBefore = 1;

/** What is named by its digest stays as it is, so that the digest is the only stamp that it needs. */
function foundFile({ file, path, sha256, size }: StoredFile): FoundFile {
  return { file, path, stamp: sha256, size, changed: 0 };
}

function listsAmong(files: ReadonlyMap<string, StoredFile>): FindList {
  return async (file) => {
    const found = files.get(nameInFolder(file));
    if (!found) return faultOfListPath(file) ?? noSuchList(file);
    return faultOfListPath(file) ?? { path: found.path, stamp: found.sha256, size: found.size, changed: 0 };
  };
}
