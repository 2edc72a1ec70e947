import { createHash } from "node:crypto";
import { setImmediate } from "node:timers/promises";
import { IdSet } from "../ids/index.ts";
import { digestOfIds } from "../model/index.ts";
import { Problems } from "../problems/index.ts";
import { listRequests, schemaRequests } from "../reading/index.ts";
import type { Document } from "../source/index.ts";
import { limits } from "../values/index.ts";
import { entriesOf, type FolderContent, FolderTools, hasFailed } from "./content.ts";
import { type FileName, fileName, isDefinitionFile, localOverridesFile, suspendedFile } from "./file-name.ts";
import type { Entry, Files } from "./files.ts";
import { type JudgeOptions, judgeContent, type Loaded } from "./judge-content.ts";
import type { ParsedBefore } from "./keep/kept-text.ts";
import { isSame, type LoadedList, listKey, loadList } from "./lists.ts";
import { LoadedFile } from "./loaded-file.ts";
import type { FileFault } from "./parse/parsed-file.ts";
import { folderTooLarge, tooLarge } from "./parse/too-large.ts";
import { decodeText } from "./read-text.ts";
import { reasonOf } from "./reason.ts";
import { type LoadedSchema, loadSchema } from "./schema-files.ts";
import { inSlices, untilAborted } from "./slices.ts";

/** Open files are a scarce thing. */
const filesAtOnce = 32;

/** What is known of files that are read. */
export interface ReadOptions {
  /** What was read last: of it nothing is parsed that is still the same. */
  readonly before?: FolderContent | undefined;
  /**
   * Files that somebody goes on writing, which looks may find more of, and for how many milliseconds: their last state stays,
   * and those that have none are not there yet.
   */
  readonly unsettled?: ReadonlyMap<FileName, number> | undefined;
  /** What was read when everything had come to rest last; `before` may have been read half-way. */
  readonly settled?: FolderContent | undefined;
  /** What was in force last: the state of files that somebody has been writing for long, who may have rested half-way. */
  readonly good?: FolderContent | undefined;
  /** What an earlier process has read of texts. */
  readonly parsedBefore?: ParsedBefore | undefined;
  readonly signal?: AbortSignal | undefined;
  /** Lists that are not there hold nobody. */
  readonly incomplete?: boolean;
}

/** Reads files as a set, wherever they come from. Nothing of it throws for what they hold. */
export async function readSet(files: Files, options: ReadOptions & JudgeOptions = {}): Promise<Loaded> {
  return judgeContent(await readFiles(files, options), options);
}

/** Reads and parses the files of a set; what they mean is not looked at yet. */
export async function readFiles(found: Files, options: ReadOptions = {}): Promise<FolderContent> {
  const { before, signal } = options;
  const files = withoutBegun(found, options);
  const tools = before?.tools ?? new FolderTools();
  const problems = new Problems();
  const definitions = definitionsIn(files, problems);
  const loaded = await loadFiles(files, definitions, tools, options);
  const documents = definitions.map((name) => loaded.get(name)!.document);
  // What has changed is compared with the shapes now, which takes a while in itself.
  await setImmediate();
  await inSlices(tools.memory.prepare(documents), signal);
  const lists = await loadLists(files, documents, tools, options);
  const schemas = new Map<string, LoadedSchema>();
  for (const file of schemaRequests(documents, tools.memory))
    schemas.set(file, await loadSchema(files, file, before?.schemas.get(file)));
  return { source: found, definitions, files: loaded, lists, schemas, problems: problems.all, tools };
}

/** What holds the last state of a file that somebody is writing. */
function earlierOf({ unsettled, settled, good }: ReadOptions, name: FileName): FolderContent | undefined {
  const milliseconds = unsettled?.get(name);
  if (milliseconds === undefined) return undefined;
  return milliseconds > 0 && good && entriesOf(good).has(name) ? good : settled;
}

/** New files that are still being written are left out. */
function withoutBegun(files: Files, { unsettled, settled }: ReadOptions): Files {
  if (!unsettled || unsettled.size === 0) return files;
  const known = settled && entriesOf(settled);
  const entries = [...files.entries].filter(([name]) => !unsettled.has(name) || known?.has(name));
  return { ...files, entries: new Map(entries) };
}

/** The definition files in path order, and what is wrong with names that would be definitions. */
function definitionsIn({ entries, faults }: Files, problems: Problems): FileName[] {
  for (const { file, fault } of faults)
    if (!/\.(?:csv|txt|schema\.json)$/.test(file)) problems.report(fault.code, { file, path: [] }, fault);
  const names = definitionNames(entries);
  checkCount(names, problems);
  return names.slice(0, limits.files);
}

/** In path order. */
function definitionNames(entries: Files["entries"]): FileName[] {
  const isDefinition = (name: FileName) =>
    isDefinitionFile(name) && name !== suspendedFile && name !== localOverridesFile;
  return [...entries.keys()].filter(isDefinition).sort();
}

function checkCount(names: readonly FileName[], problems: Problems): void {
  if (names.length === 0 && problems.all.length === 0) {
    problems.report(
      "folder-empty",
      { file: ".", path: [] },
      {
        message: "The folder holds no definition file.",
        expected: "at least one .yaml, .yml or .json file that begins with iudex: 1",
      },
    );
  }
  if (names.length > limits.files) {
    problems.report(
      "too-many-files",
      { file: names[limits.files]!, path: [] },
      {
        message: "The folder holds too many definition files.",
        found: String(names.length),
        expected: `at most ${limits.files}`,
      },
    );
  }
}

async function loadFiles(
  { entries }: Files,
  definitions: readonly FileName[],
  tools: FolderTools,
  options: ReadOptions,
): Promise<Map<string, LoadedFile>> {
  const wanted = entries.has(suspendedFile) ? [...definitions, suspendedFile] : definitions;
  const tooMuch = beyond(definitions, entries, limits.folderBytes);
  const files = new Map<string, LoadedFile>();
  for (let i = 0; i < wanted.length; i += filesAtOnce) {
    options.signal?.throwIfAborted();
    const loading = wanted.slice(i, i + filesAtOnce).map((name) => {
      const entry = entries.get(name)!;
      if (tooMuch.has(name)) return unreadable(name, entry, folderTooLarge, false);
      return earlierOf(options, name)?.files.get(name) ?? loadFile(name, entry, tools, options);
    });
    for (const file of await untilAborted(Promise.all(loading), options.signal)) files.set(file.name, file);
  }
  return files;
}

/** The files with which a folder is larger than it may be. */
function beyond(names: readonly FileName[], entries: Files["entries"], most: number): ReadonlySet<FileName> {
  let left = most;
  return new Set(
    names.filter((name) => {
      left -= entries.get(name)!.size;
      return left < 0;
    }),
  );
}

/** Reads a file; one whose text is the same as before keeps its document. */
async function loadFile(
  name: FileName,
  entry: Entry,
  { worker }: FolderTools,
  { before, parsedBefore, signal }: ReadOptions,
): Promise<LoadedFile> {
  const known = before?.files.get(name);
  if (known && !known.failed && isSame(known.entry, entry))
    return known.entry === entry ? known : known.foundAgain(entry);
  const large = tooLarge(entry.size);
  if (large) return unreadable(name, entry, large, false);
  let text: string | undefined;
  try {
    text = decodeText(await entry.bytes(signal));
  } catch (error) {
    signal?.throwIfAborted();
    return unreadable(name, entry, cannotBeRead(error), true);
  }
  if (text === undefined) return unreadable(name, entry, notText, false);
  if (known && !known.failed && known.text === text) return known.foundAgain(entry);
  return LoadedFile.of(name, entry, text, parsedBefore?.(name, () => sha256(text)) ?? (await worker.parse(name, text)));
}

function sha256(text: string): string {
  return createHash("sha256").update(text).digest("hex");
}

function unreadable(name: FileName, entry: Entry, fault: FileFault, failed: boolean): LoadedFile {
  return LoadedFile.of(name, entry, "", { data: undefined, spellings: new Map(), faults: [fault] }, failed);
}

const nowhere = { start: 0, end: 0 };
const notText: FileFault = {
  code: "file-not-text",
  message: "This file is not UTF-8 text.",
  expected: "UTF-8",
  range: nowhere,
};

function cannotBeRead(error: unknown): FileFault {
  return {
    code: "file-unreadable",
    message: `This file cannot be read: ${reasonOf(error)}.`,
    expected: "a file that this process may read",
    range: nowhere,
  };
}

const nobody = { ids: IdSet.from([]), digest: digestOfIds([]) };

async function loadLists(
  files: Files,
  documents: readonly Document[],
  { memory, worker }: FolderTools,
  options: ReadOptions,
): Promise<Map<string, LoadedList>> {
  const { before, signal, incomplete } = options;
  const lists = new Map<string, LoadedList>();
  let left = limits.allListBytes;
  for (const request of listRequests(documents, memory)) {
    signal?.throwIfAborted();
    const key = listKey(request);
    if (lists.has(key)) continue;
    const name = fileName(request.file);
    const standing = typeof name === "string" ? earlierOf(options, name)?.lists.get(key) : undefined;
    const known = before?.lists.get(key);
    const list = standing ?? (await untilAborted(loadList(files, request, { worker, left }, known), signal));
    lists.set(key, incomplete && list.result.fault ? { ...list, result: nobody } : list);
    left -= list.entry?.size ?? 0;
  }
  return lists;
}

/** How often reading is tried again because something changed in between. */
const maxAttempts = 5;

/**
 * Reads what has changed, and looks again afterwards: what changed while it was read is read once more. Where writers never
 * rest, the files that hold still are taken, and the others as they were before.
 */
export async function readSteadily(look: () => Promise<Files>, options: ReadOptions = {}): Promise<FolderContent> {
  const { before, settled = before, unsettled = new Map<FileName, number>() } = options;
  let known = before;
  let found = await look();
  for (let attempt = 1; ; attempt++) {
    const count = unsettled.size;
    const content = await readFiles(found, { ...options, before: known });
    const again = await look();
    const moved = movedIn(content, again, unsettled);
    // What has just been begun was read, and must not have been.
    if (moved.size === 0 && unsettled.size === count) return content;
    // Of a folder that is turned over and over nothing was read whole.
    if (attempt >= maxAttempts && settled && again.root !== found.root) return settled;
    if (attempt >= maxAttempts) return withEarlier(content, moved, settled);
    known = content;
    found = again;
  }
}

/** The files of a set that are not any more what they were when it was read. */
export function movedIn(
  content: FolderContent,
  { entries, isListed, root }: Files,
  except: ReadonlyMap<FileName, number> = new Map(),
): Set<FileName> {
  const read = entriesOf(content);
  const wanted = [...content.lists.values()].map(({ request }) => request.file).concat([...content.schemas.keys()]);
  const asked = wanted.map(fileName).filter((name) => typeof name === "string");
  const definitions = definitionNames(entries).slice(0, limits.files);
  const names = new Set([suspendedFile, ...read.keys(), ...asked, ...definitions]);
  const moved = [...names].filter((name) => !except.has(name) && entries.get(name)?.mark !== read.get(name)?.mark);
  const isElsewhere = root !== content.source.root || isListed !== content.source.isListed;
  return new Set(isElsewhere ? [...moved, suspendedFile] : moved);
}

/** Files and lists that changed while they were read may be half there: their last whole reading stands in, if any. */
function withEarlier(
  content: FolderContent,
  moved: ReadonlySet<FileName>,
  before: FolderContent | undefined,
): FolderContent {
  if (!before) return content;
  const files = new Map(content.files);
  for (const name of moved) {
    const earlier = before.files.get(name);
    if (earlier && files.has(name)) files.set(name, earlier);
  }
  const lists = new Map(content.lists);
  for (const [key, { name }] of lists) {
    const earlier = before.lists.get(key);
    if (earlier && name && moved.has(name)) lists.set(key, earlier);
  }
  return { ...content, files, lists };
}

/** True if reading again may give something else. */
export function mustReadAgain(content: FolderContent, now: Files): boolean {
  if (hasFailed(content)) return true;
  if (now.stamp !== undefined && now.stamp === content.source.stamp) return false;
  for (const [name, entry] of entriesOf(content)) if (!isSame(entry, now.entries.get(name) ?? entry)) return true;
  // They are not a part of the set, and are read with it.
  const overridesOf = ({ entries }: Files) => entries.get(localOverridesFile)?.mark;
  if (overridesOf(now) !== overridesOf(content.source)) return true;
  return movedIn(content, now).size > 0 || JSON.stringify(now.faults) !== JSON.stringify(content.source.faults);
}
