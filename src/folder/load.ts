import { listRequests, schemaRequests } from "../reading/index.ts";
import type { Document } from "../source/index.ts";
import { limits } from "../values/index.ts";
import { contentSignature, type FolderContent, FolderTools, filesOf } from "./content.ts";
import { judgeContent, type Loaded } from "./judge-content.ts";
import type { ParsedBefore } from "./kept-text.ts";
import { type FindList, type LoadedList, listKey, listsIn, loadList, stampOf } from "./lists.ts";
import { loadFiles } from "./load-files.ts";
import type { LoadedFile } from "./loaded-file.ts";
import { type FolderScan, scanFolder, signatureOf } from "./scan.ts";
import { loadSchemas } from "./schema-files.ts";
import { inSlices } from "./slices.ts";

/** Reads, merges and checks a definition folder. Nothing of it throws for what the folder holds. */
export async function loadFolder(folder: string, before?: FolderContent): Promise<Loaded> {
  const loaded = await judgeContent(await readFolder(folder, before));
  // Whoever reads once waits for no second reading; whoever goes on will have another thread.
  if (!before) loaded.content.tools.aside.close();
  return loaded;
}

/** What is known beforehand of a folder that is read again. */
export interface ReadingFolder {
  /** Files that were parsed already. */
  readonly ahead?: ReadonlyMap<string, LoadedFile> | undefined;
  /** The paths of files that somebody goes on writing: their last good reading stands in for them. */
  readonly restless?: ReadonlySet<string> | undefined;
  /** What was in force last; `before` may have been refused. */
  readonly good?: FolderContent | undefined;
  /** What an earlier process has read of texts. */
  readonly parsedBefore?: ParsedBefore | undefined;
}

/** How often reading is tried again because something changed meanwhile. */
const mostAttempts = 5;

/**
 * Reads what has changed since `before`, and looks again afterwards: what changed while it was read is read once more.
 * Where writers never rest, the files that hold still are taken, and the others as they were before. What `readAhead`
 * has parsed is taken where the file is still the same.
 */
export async function readFolder(
  folder: string,
  before?: FolderContent,
  { ahead, restless = new Set(), good = before, parsedBefore }: ReadingFolder = {},
): Promise<FolderContent> {
  const tools = before?.tools ?? new FolderTools();
  let known = before;
  for (let attempt = 1; ; attempt++) {
    const scan = held(await scanFolder(folder), good, restless);
    const files = await loadFiles(scan, tools, { before: known?.files, ahead, good: good?.files, parsedBefore });
    const documents = scan.definitions.map(({ file }) => files.get(file)!.document);
    const find = scan.root === undefined ? undefined : listsIn(scan.root);
    const lists = await loadLists(find, documents, tools, {
      before: known?.lists,
      good: good?.lists,
      restless,
      settledBefore: scan.settledBefore,
    });
    const schemas = await loadSchemas(scan.root, schemaRequests(documents, tools.memory));
    const content = { scan, files, lists, schemas, tools, signature: contentSignature(scan, files, lists, schemas) };
    const again = held(await scanFolder(folder), good, restless);
    if (signatureOf(again) === signatureOf(scan) && (await listsUnchanged(scan, lists, restless))) return content;
    if (attempt >= mostAttempts) return withoutRestless(content, again, before);
    known = content;
  }
}

/** A scan in which files that somebody goes on writing look as they did when they were good. */
function held(scan: FolderScan, good: FolderContent | undefined, restless: ReadonlySet<string>): FolderScan {
  if (!good || restless.size === 0) return scan;
  const definitions = scan.definitions.map((found) =>
    restless.has(found.path) ? (good.files.get(found.file)?.found ?? found) : found,
  );
  return { ...scan, definitions };
}

/** Files and lists that changed while they were read may be half there: their last whole reading stands in, if any. */
async function withoutRestless(
  content: FolderContent,
  again: FolderScan,
  before: FolderContent | undefined,
): Promise<FolderContent> {
  const stamps = new Map(filesOf(again).map(({ file, stamp }) => [file, stamp]));
  const files = new Map(content.files);
  for (const [file, { found }] of content.files) {
    const earlier = before?.files.get(file);
    if (earlier && stamps.get(file) !== found.stamp) files.set(file, earlier);
  }
  const lists = new Map(content.lists);
  for (const [key, list] of content.lists) {
    const earlier = before?.lists.get(key);
    if (!earlier) continue;
    const stamp = again.root === undefined ? undefined : await stampOf(again.root, list.request.file);
    if (stamp !== list.stamp) lists.set(key, earlier);
  }
  return { ...content, files, lists };
}

async function listsUnchanged(
  scan: FolderScan,
  lists: ReadonlyMap<string, LoadedList>,
  restless: ReadonlySet<string>,
): Promise<boolean> {
  for (const list of lists.values()) {
    if (list.path !== undefined && restless.has(list.path)) continue;
    if ((await stampOf(scan.root!, list.request.file)) !== list.stamp) return false;
  }
  return true;
}

/**
 * Reads the lists that documents ask for; it is the first to look into them, and so reads them with pauses.
 *
 * @param find undefined where there is no folder to look in
 */
export async function loadLists(
  find: FindList | undefined,
  documents: readonly Document[],
  { memory, aside, settled }: FolderTools,
  known: {
    readonly settledBefore: number;
    readonly before: ReadonlyMap<string, LoadedList> | undefined;
    readonly good: ReadonlyMap<string, LoadedList> | undefined;
    readonly restless: ReadonlySet<string>;
  },
): Promise<Map<string, LoadedList>> {
  const lists = new Map<string, LoadedList>();
  await inSlices(memory.prepare(documents));
  if (!find) return lists;
  const { settledBefore } = known;
  let left = limits.allListBytes;
  for (const request of listRequests(documents, memory)) {
    const key = listKey(request);
    if (lists.has(key)) continue;
    const standing = known.good?.get(key);
    const isHeld = standing?.path !== undefined && known.restless.has(standing.path);
    const list = isHeld
      ? standing
      : await loadList(find, request, { aside, left, settled, settledBefore }, known.before?.get(key));
    lists.set(key, list);
    left -= list.size ?? 0;
  }
  return lists;
}
