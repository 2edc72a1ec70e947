import { type Definitions, type ListRequest, saysSuspensions } from "../model/index.ts";
import { type Problem, Problems } from "../problems/index.ts";
import { listRequests, ReadingMemory, readInSteps, schemaRequests } from "../reading/index.ts";
import type { Document } from "../source/index.ts";
import { limits } from "../values/index.ts";
import { Aside } from "./aside.ts";
import type { SchemaFile } from "./json-schemas.ts";
import type { ParsedBefore } from "./kept-text.ts";
import { type FindList, type LoadedList, listKey, listsIn, loadList, stampOf } from "./lists.ts";
import { Finder, keptProblems, type LocatedProblem, locateAll } from "./located.ts";
import { documentOf, type FileFault, type ParsedText } from "./parsed-file.ts";
import { readText } from "./read-text.ts";
import { coarse, type FolderScan, type FoundFile, scanFolder, signatureOf, suspendedFile } from "./scan.ts";
import { loadSchemas } from "./schema-files.ts";
import { inSlices } from "./slices.ts";
import { folderTooLarge, tooLarge } from "./too-large.ts";

/** A file that has been read and parsed. */
export interface LoadedFile {
  readonly found: FoundFile;
  readonly text: string;
  readonly parsed: ParsedText;
  /** One and the same object for as long as the file stays as it is. */
  readonly document: Document;
  /** Reading failed for a reason that may pass: it is tried again at every look. */
  readonly failed: boolean;
  /** It was read so soon after it had changed that it may change again under the same time stamp. */
  readonly young: boolean;
}

/** What was read of a folder, kept so that the next reading parses only what has changed. */
export interface FolderContent {
  readonly scan: FolderScan;
  readonly files: ReadonlyMap<string, LoadedFile>;
  readonly lists: ReadonlyMap<string, LoadedList>;
  readonly schemas: ReadonlyMap<string, SchemaFile>;
  /** Changes whenever anything that was read does, list files included. */
  readonly signature: string;
  /** What readings of this folder hand on to each other. */
  readonly tools: FolderTools;
}

/** What the readings of one folder have in common; nothing of it is shared with another. */
export class FolderTools {
  readonly memory = new ReadingMemory();
  readonly aside = new Aside();
}

/** A folder that was read: its set, unless an error keeps it from being used, and every problem. */
export interface Loaded {
  /** @hidden */
  readonly content: FolderContent;
  /** Undefined while an error keeps the set from being used. */
  readonly definitions: Definitions | undefined;
  /**
   * The suspensions, which hold even while the rest is broken; undefined when it is not certain what they are: only a
   * file that was read, or that is certainly gone, tells.
   */
  readonly suspensions: Definitions["suspensions"] | undefined;
  readonly problems: readonly LocatedProblem[];
}

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
    const lists = await loadLists(find, documents, tools, { before: known?.lists, good: good?.lists, restless });
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

function filesOf({ definitions, suspended }: FolderScan): FoundFile[] {
  return [...definitions, ...(suspended ? [suspended] : [])];
}

/** The signature that a reading would have now, list files included: what tells whether reading again is worth it. */
export async function currentSignature(folder: string, content: FolderContent): Promise<string> {
  const scan = await scanFolder(folder);
  const stamps: string[] = [];
  const now = Date.now();
  for (const [key, { request, young }] of content.lists) {
    const stamp = scan.root === undefined ? undefined : await stampOf(scan.root, request.file);
    stamps.push(`${key}:${stamp}${young !== undefined && now - young < coarse ? "?" : ""}`);
  }
  const schemas = await loadSchemas(scan.root, content.schemas.keys());
  const young = filesOf(scan).filter(({ file, changed }) => content.files.get(file)?.young && now - changed < coarse);
  return [signatureOf(scan), ...young.map(({ file }) => `${file}?`), ...stamps, schemaSignature(schemas)].join("\n");
}

function contentSignature(
  scan: FolderScan,
  files: ReadonlyMap<string, LoadedFile>,
  lists: ReadonlyMap<string, LoadedList>,
  schemas: ReadonlyMap<string, SchemaFile>,
): string {
  const young = [...files.values()].filter((file) => file.young).map(({ found }) => `${found.file}?`);
  const failed = [...files.values(), ...lists.values()].some((each) => each.failed)
    ? ["something could not be read"]
    : [];
  const stamps = [...lists].map(([key, list]) => `${key}:${list.stamp}${list.young === undefined ? "" : "?"}`);
  return [signatureOf(scan), ...young, ...failed, ...stamps, schemaSignature(schemas)].join("\n");
}

function schemaSignature(schemas: ReadonlyMap<string, SchemaFile>): string {
  return schemas.size === 0 ? "" : JSON.stringify([...schemas]);
}

/** Open files are a scarce thing. */
const filesAtOnce = 32;

/** A file that was changed more recently than this, in milliseconds, may change again under the same time stamp. */
const restlessFor = 30;

/**
 * Parses the files that have changed since `before`, while nobody waits for them yet. Nothing is judged by it: a file
 * counts only if it is found unchanged when the folder is read in earnest.
 */
export async function readAhead(folder: string, before: FolderContent): Promise<ReadonlyMap<string, LoadedFile>> {
  const scan = await scanFolder(folder);
  const now = Date.now();
  const changed = filesOf(scan).filter(
    (found) => before.files.get(found.file)?.found.stamp !== found.stamp && now - found.changed > restlessFor,
  );
  const files = new Map<string, LoadedFile>();
  for (const found of changed.slice(0, filesAtOnce)) files.set(found.file, await loadFile(found, before.tools.aside));
  return files;
}

/** Where a file need not be read, or its text not be parsed. */
type KnownFiles = Readonly<Partial<Record<"before" | "ahead" | "good", ReadonlyMap<string, LoadedFile> | undefined>>> &
  Pick<ReadingFolder, "parsedBefore">;

export async function loadFiles(
  scan: FolderScan,
  { aside }: FolderTools,
  { before, ahead, good, parsedBefore }: KnownFiles,
): Promise<Map<string, LoadedFile>> {
  const files = new Map<string, LoadedFile>();
  const wanted = filesOf(scan);
  const tooMuch = beyond(wanted, limits.folderBytes);
  for (let i = 0; i < wanted.length; i += filesAtOnce) {
    const loading = wanted.slice(i, i + filesAtOnce).map((found) => {
      if (found.file !== suspendedFile && tooMuch.has(found)) return unreadable(found, folderTooLarge, false);
      const standing = good?.get(found.file);
      // Somebody goes on writing it, so that it looks as it did.
      if (standing?.found === found) return standing;
      const known = [before?.get(found.file), ahead?.get(found.file)].find((file) => file?.found.stamp === found.stamp);
      return known && !known.failed && !known.young ? known : loadFile(found, aside, { known, parsedBefore });
    });
    for (const file of await Promise.all(loading)) files.set(file.found.file, file);
  }
  return files;
}

/** The files with which a folder is larger than it may be. */
function beyond(files: readonly FoundFile[], most: number): ReadonlySet<FoundFile> {
  let left = most;
  return new Set(
    files.filter(({ size }) => {
      left -= size;
      return left < 0;
    }),
  );
}

/** Reads a file; one whose text is the same as `known` keeps its document. */
async function loadFile(
  found: FoundFile,
  aside: Aside,
  { known, parsedBefore }: { readonly known?: LoadedFile | undefined } & Pick<ReadingFolder, "parsedBefore"> = {},
): Promise<LoadedFile> {
  const large = tooLarge(found.size);
  if (large) return unreadable(found, large, false);
  const read = Date.now();
  const text = await readText(found.path);
  if (typeof text !== "string") {
    return unreadable(found, { ...text, range: { start: 0, end: 0 } }, text.code === "file-unreadable");
  }
  const young = read - found.changed < coarse;
  if (known && !known.failed && known.text === text) return { ...known, found, young };
  const parsed = parsedBefore?.(found.file, text) ?? (await aside.parse(found.file, text));
  return { ...loadedFile(found, text, parsed), young };
}

function unreadable(found: FoundFile, fault: FileFault, failed: boolean): LoadedFile {
  return { ...loadedFile(found, "", { data: undefined, spellings: new Map(), faults: [fault] }), failed };
}

export function loadedFile(found: FoundFile, text: string, parsed: ParsedText): LoadedFile {
  return { found, text, parsed, document: documentOf(found.file, parsed), failed: false, young: false };
}

/** @param find undefined where there is no folder to look in */
export async function loadLists(
  find: FindList | undefined,
  documents: readonly Document[],
  { memory, aside }: FolderTools,
  known: {
    readonly before: ReadonlyMap<string, LoadedList> | undefined;
    readonly good: ReadonlyMap<string, LoadedList> | undefined;
    readonly restless: ReadonlySet<string>;
  },
): Promise<Map<string, LoadedList>> {
  const lists = new Map<string, LoadedList>();
  if (!find) return lists;
  let left = limits.allListBytes;
  for (const request of listRequests(documents, memory)) {
    const key = listKey(request);
    if (lists.has(key)) continue;
    const standing = known.good?.get(key);
    const isHeld = standing?.path !== undefined && known.restless.has(standing.path);
    const list = isHeld ? standing : await loadList(find, request, { aside, left }, known.before?.get(key));
    lists.set(key, list);
    left -= list.size ?? 0;
  }
  return lists;
}

/**
 * Puts the set together from what was read, without keeping the event loop waiting. What is said to be incomplete may
 * name what it does not define.
 */
export async function judgeContent(
  content: FolderContent,
  { incomplete = false }: { readonly incomplete?: boolean } = {},
): Promise<Loaded> {
  const { scan, files, tools } = content;
  const documents: Document[] = [];
  const texts = textsOf(content);
  const finder = new Finder(texts);
  const faults: LocatedProblem[] = [];
  for (const { found, parsed, document } of files.values()) {
    for (const fault of parsed.faults) faults.push(finder.fault(found.file, asSuspensionFault(found, fault)));
    if (found.file !== suspendedFile && parsed.faults.length === 0) documents.push(document);
  }
  const broken = scan.definitions.length - documents.length;
  const suspended = scan.suspended && files.get(scan.suspended.file);
  const { schemaPort } =
    content.schemas.size > 0 || hasSchemas(documents, tools) ? await import("./json-schemas.ts") : none;
  const reading = await inSlices(
    readInSteps(documents, {
      lists: (request: ListRequest) => content.lists.get(listKey(request))!.result,
      schemas: schemaPort?.(content.schemas),
      suspended: suspended?.document,
      incomplete: incomplete || broken > 0,
      memory: tools.memory,
    }),
  );
  const located = await locateAll([...scan.problems, ...reading.problems], texts, (...words) =>
    tools.aside.locate(...words),
  );
  const usable = broken === 0 && !hasErrors(scan.problems) && scan.definitions.length > 0;
  const isKnown = suspended ? saysSuspensions(suspended.document) : scan.suspendedIsGone;
  return {
    content,
    definitions: usable ? reading.definitions : undefined,
    suspensions: isKnown ? reading.suspensions : undefined,
    problems: keptProblems([...faults, ...located], reading.more),
  };
}

const none: { readonly schemaPort?: undefined } = {};

/** The validator is loaded when a set needs it. */
function hasSchemas(documents: readonly Document[], { memory }: FolderTools): boolean {
  return documents.some((document) => memory.file(document).schemas.length > 0);
}

function textsOf({ files }: FolderContent): ReadonlyMap<string, string> {
  return new Map([...files].map(([file, { text }]) => [file, text]));
}

/** All problems of a loaded folder together with those that a later look at its definitions found. */
export async function locateProblems(loaded: Loaded, later: readonly Problem[]): Promise<LocatedProblem[]> {
  const { aside } = loaded.content.tools;
  const located = await locateAll(later, textsOf(loaded.content), (...words) => aside.locate(...words));
  return keptProblems([...loaded.problems, ...located], 0);
}

/** Faults in the suspension file are reported under a code that does not keep the set from being used. */
function asSuspensionFault({ file }: FoundFile, fault: FileFault): FileFault {
  return file === suspendedFile ? { ...fault, code: "suspension-fault" } : fault;
}

function hasErrors(problems: FolderScan["problems"]): boolean {
  const all = new Problems();
  all.add(problems);
  return all.hasErrors;
}
