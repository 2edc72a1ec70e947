import { type Definitions, type Document, type ListRequest, listRequests, type Problem, readInSteps } from "../core.ts";
import { Problems } from "../problems/problem.ts";
import { type LoadedList, listKey, loadList, stampOf } from "./lists.ts";
import { Finder, inReadingOrder, type LocatedProblem } from "./located.ts";
import { tooLarge } from "./parse.ts";
import { documentOf, type ParsedText, type TextFault } from "./parsed-file.ts";
import { parseAside } from "./parser.ts";
import { readText } from "./read-text.ts";
import { type FolderScan, type FoundFile, scanFolder, signatureOf, suspendedFile } from "./scan.ts";
import { inSlices } from "./slices.ts";

/** A file that has been read and parsed. */
export interface LoadedFile {
  readonly found: FoundFile;
  readonly text: string;
  readonly parsed: ParsedText;
  /** The same object for as long as the file stays as it is. */
  readonly document: Document;
}

/** What was read of a folder, kept so that the next reading parses only what has changed. */
export interface FolderContent {
  readonly scan: FolderScan;
  readonly files: ReadonlyMap<string, LoadedFile>;
  readonly lists: ReadonlyMap<string, LoadedList>;
  /** Changes whenever anything that was read does, list files included. */
  readonly signature: string;
}

export interface Loaded {
  readonly content: FolderContent;
  /** Undefined while an error keeps the set from being used. */
  readonly definitions: Definitions | undefined;
  /** The suspensions, which hold even while the rest is broken; undefined when their own file cannot be read. */
  readonly suspensions: Definitions["suspensions"] | undefined;
  readonly problems: readonly LocatedProblem[];
}

/** Reads, merges and checks a definition folder. Nothing of it throws for what the folder holds. */
export async function loadFolder(folder: string, before?: FolderContent): Promise<Loaded> {
  const content = await readFolder(folder, before);
  return judgeContent(content);
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
  ahead?: ReadonlyMap<string, LoadedFile>,
): Promise<FolderContent> {
  let known = before;
  for (let attempt = 1; ; attempt++) {
    const scan = await scanFolder(folder);
    const files = await loadFiles(scan, known?.files, ahead);
    const lists = await loadLists(scan, files, known?.lists);
    const content = { scan, files, lists, signature: contentSignature(scan, lists) };
    const again = await scanFolder(folder);
    if (signatureOf(again) === signatureOf(scan) && (await listsUnchanged(scan, lists))) return content;
    if (attempt >= mostAttempts) return withoutRestless(content, again, before);
    known = content;
  }
}

/** Files that changed while they were read may be half there: their last whole reading stands in, if there is one. */
function withoutRestless(content: FolderContent, again: FolderScan, before: FolderContent | undefined): FolderContent {
  const stamps = new Map(
    [...again.definitions, ...(again.suspended ? [again.suspended] : [])].map(({ file, stamp }) => [file, stamp]),
  );
  const files = new Map(content.files);
  for (const [file, { found }] of content.files) {
    const earlier = before?.files.get(file);
    if (earlier && stamps.get(file) !== found.stamp) files.set(file, earlier);
  }
  return { ...content, files };
}

async function listsUnchanged(scan: FolderScan, lists: ReadonlyMap<string, LoadedList>): Promise<boolean> {
  for (const list of lists.values()) {
    if ((await stampOf(scan.root!, list.request.file)) !== list.stamp) return false;
  }
  return true;
}

/** The signature that a reading would have now, list files included: what tells whether reading again is worth it. */
export async function currentSignature(folder: string, { lists }: FolderContent): Promise<string> {
  const scan = await scanFolder(folder);
  const stamps: string[] = [];
  for (const [key, { request }] of lists) {
    const stamp = scan.root === undefined ? undefined : await stampOf(scan.root, request.file);
    stamps.push(`${key}:${stamp}`);
  }
  return [signatureOf(scan), ...stamps].join("\n");
}

function contentSignature(scan: FolderScan, lists: ReadonlyMap<string, LoadedList>): string {
  return [signatureOf(scan), ...[...lists].map(([key, { stamp }]) => `${key}:${stamp}`)].join("\n");
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
  const changed = [...scan.definitions, ...(scan.suspended ? [scan.suspended] : [])].filter(
    (found) => before.files.get(found.file)?.found.stamp !== found.stamp && now - found.changed > restlessFor,
  );
  const files = new Map<string, LoadedFile>();
  for (const found of changed.slice(0, filesAtOnce)) files.set(found.file, await loadFile(found));
  return files;
}

async function loadFiles(
  scan: FolderScan,
  before?: ReadonlyMap<string, LoadedFile>,
  ahead?: ReadonlyMap<string, LoadedFile>,
): Promise<Map<string, LoadedFile>> {
  const files = new Map<string, LoadedFile>();
  const wanted = [...scan.definitions, ...(scan.suspended ? [scan.suspended] : [])];
  for (let i = 0; i < wanted.length; i += filesAtOnce) {
    const loading = wanted.slice(i, i + filesAtOnce).map((found) => {
      const known = [before?.get(found.file), ahead?.get(found.file)].find((file) => file?.found.stamp === found.stamp);
      return known ?? loadFile(found);
    });
    for (const file of await Promise.all(loading)) files.set(file.found.file, file);
  }
  return files;
}

async function loadFile(found: FoundFile): Promise<LoadedFile> {
  const large = tooLarge(found.size);
  if (large) return unreadable(found, large);
  const text = await readText(found.path);
  if (typeof text !== "string") return unreadable(found, { ...text, range: { start: 0, end: 0 } });
  return loadedFile(found, text, await parseAside(found.file, text));
}

function unreadable(found: FoundFile, fault: TextFault): LoadedFile {
  return loadedFile(found, "", { data: undefined, spellings: new Map(), faults: [fault] });
}

export function loadedFile(found: FoundFile, text: string, parsed: ParsedText): LoadedFile {
  return { found, text, parsed, document: documentOf(found.file, parsed) };
}

async function loadLists(
  scan: FolderScan,
  files: ReadonlyMap<string, LoadedFile>,
  before?: ReadonlyMap<string, LoadedList>,
): Promise<Map<string, LoadedList>> {
  const lists = new Map<string, LoadedList>();
  if (scan.root === undefined) return lists;
  const documents = scan.definitions.map(({ file }) => files.get(file)!.document);
  for (const request of listRequests(documents)) {
    const key = listKey(request);
    if (!lists.has(key)) lists.set(key, await loadList(scan.root, request, before?.get(key)));
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
  const { scan, files } = content;
  const finder = new Finder(new Map([...files].map(([file, { text }]) => [file, text])));
  const documents: Document[] = [];
  const located: LocatedProblem[] = scan.problems.map((p) => finder.problem(p));
  for (const { found, parsed, document } of files.values()) {
    for (const fault of parsed.faults) located.push(finder.fault(found.file, asSuspensionFault(found, fault)));
    if (found.file !== suspendedFile && parsed.faults.length === 0) documents.push(document);
  }
  const broken = scan.definitions.length - documents.length;
  const suspended = scan.suspended && files.get(scan.suspended.file);
  const reading = await inSlices(
    readInSteps(documents, {
      lists: (request: ListRequest) => content.lists.get(listKey(request))!.result,
      suspended: suspended?.document,
      incomplete: incomplete || broken > 0,
    }),
  );
  for (const problem of reading.problems) located.push(finder.problem(problem));
  const usable = broken === 0 && !hasErrors(scan.problems) && scan.definitions.length > 0;
  return {
    content,
    definitions: usable ? reading.definitions : undefined,
    suspensions: suspended && suspended.parsed.faults.length > 0 ? undefined : reading.suspensions,
    problems: inReadingOrder(located),
  };
}

/** All problems of a loaded folder together with those that a later look at its definitions found. */
export function locateProblems(loaded: Loaded, later: readonly Problem[]): LocatedProblem[] {
  const finder = new Finder(new Map([...loaded.content.files].map(([file, { text }]) => [file, text])));
  return inReadingOrder([...loaded.problems, ...later.map((p) => finder.problem(p))]);
}

/** Faults in the suspension file are reported under a code that does not keep the set from being used. */
function asSuspensionFault({ file }: FoundFile, fault: TextFault): TextFault {
  return file === suspendedFile ? { ...fault, code: "suspension-fault" } : fault;
}

function hasErrors(problems: FolderScan["problems"]): boolean {
  const all = new Problems();
  all.add(problems);
  return all.hasErrors;
}
