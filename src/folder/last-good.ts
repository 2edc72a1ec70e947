import { randomUUID } from "node:crypto";
import { createReadStream } from "node:fs";
import { mkdir, readdir, rename, rm } from "node:fs/promises";
import { join } from "node:path";
import type { ListRequest } from "../model/index.ts";
import { removeAbandoned } from "./abandoned.ts";
import { type FolderContent, FolderTools } from "./content.ts";
import { CopyWriter, isSigned, keyOf, knownKeyOf, readCopyLines, readSealedLines } from "./copy-file.ts";
import { judgeContent, type Loaded } from "./judge-content.ts";
import { type KeptText, kept, type ParsedBefore, parsedOf, parser } from "./kept-text.ts";
import { type LoadedList, listKey } from "./lists.ts";
import { LoadedFile } from "./loaded-file.ts";
import { packIds, resultOf } from "./packed-list.ts";
import type { FolderScan, FoundFile } from "./scan.ts";
import { readSource } from "./text-reader.ts";

/** Copies that are kept; the oldest go. */
const mostCopies = 3;

/** The shape of a copy; one of another shape is passed over, and left to whoever wrote it. */
const copyVersion = 4;
const ending = `.v${copyVersion}.copy`;

/** Texts of lists are kept in parts of so many bytes. */
const partBytes = 262_144;

/** The first line of a copy; each of the others holds a part of it. */
interface CopyHead {
  readonly copy: typeof copyVersion;
  readonly savedAt: string;
  /** What parsed the texts; see `parser`. */
  readonly parser: string;
}

type CopyLine =
  | ({ readonly file: string } & KeptText)
  | { readonly suspended: string }
  | { readonly list: ListRequest }
  | { readonly part: string }
  | { readonly schema: string; readonly data: unknown };

interface Copy {
  readonly savedAt: string;
  readonly files: Readonly<Record<string, KeptText>>;
  readonly suspended: string | undefined;
  readonly lists: readonly { readonly request: ListRequest; readonly text: string }[];
  readonly schemas: readonly (readonly [file: string, data: unknown])[];
}

export interface KeptCopy {
  readonly loaded: Loaded;
  readonly file: string;
  readonly savedAt: string;
}

/**
 * Keeps a copy of a good set: written aside, signed, flushed, renamed. A process that dies while writing leaves at worst
 * a file that nobody reads. Nothing large is worked on at once, so that a service goes on answering.
 */
export async function keepCopy(directory: string, content: FolderContent): Promise<void> {
  // Copies are never more open than their sources: lists of ids are in them.
  await mkdir(directory, { recursive: true, mode: 0o700 });
  const key = await keyOf(directory);
  const savedAt = new Date().toISOString();
  const aside = join(directory, `.${randomUUID()}.tmp`);
  const writer = await CopyWriter.open(aside, key);
  try {
    await writer.line({ copy: copyVersion, savedAt, parser } satisfies CopyHead);
    for (const line of definitionLines(content)) await writer.line(line);
    await writer.seal();
    for await (const line of otherLines(content)) await writer.line(line);
    await writer.finish();
  } catch (error) {
    await rm(aside, { force: true });
    if (error === listGone) return;
    throw error;
  } finally {
    await writer.close();
  }
  await rename(aside, join(directory, `${stampOf(savedAt)}-${randomUUID().slice(0, 8)}${ending}`));
  await removeOld(directory, key);
  await removeAbandoned(directory);
}

/** A list that can no longer be read as it was: the copy would not be of the set that is in force. */
const listGone = new Error("a list has gone");

function* definitionLines({ scan, files }: FolderContent): Generator<CopyLine> {
  for (const { file } of scan.definitions) {
    const { text, parsed } = files.get(file)!;
    yield { file, ...kept(file, text, parsed) };
  }
}

async function* otherLines({ scan, files, lists, schemas }: FolderContent): AsyncGenerator<CopyLine> {
  if (scan.suspended) yield { suspended: files.get(scan.suspended.file)!.text };
  for (const [file, schema] of schemas) if (!schema.fault) yield { schema: file, data: schema.data };
  for (const { request, path } of lists.values()) {
    if (path === undefined) throw listGone;
    yield { list: request };
    for await (const part of partsOf(path)) yield { part };
  }
}

async function* partsOf(path: string): AsyncGenerator<string> {
  const decoder = new TextDecoder("utf-8", { fatal: true });
  try {
    for await (const bytes of createReadStream(path, { highWaterMark: partBytes }))
      yield decoder.decode(bytes as Buffer, { stream: true });
    yield decoder.decode();
  } catch {
    throw listGone;
  }
}

/** Only copies that are older than three good ones go: one that was tampered with makes no good one go. */
async function removeOld(directory: string, key: Buffer): Promise<void> {
  const copies = copiesIn(await readdir(directory)).reverse();
  let good = 0;
  for (const name of copies.length > mostCopies ? copies : []) {
    const path = join(directory, name);
    if (good === mostCopies) await rm(path, { force: true });
    else if (await isSigned(path, key)) good++;
  }
}

/** Copies in the order in which they were saved; one that bears a future date is none. */
function copiesIn(names: readonly string[]): string[] {
  const now = stampOf(new Date().toISOString());
  return names.filter((name) => name.endsWith(ending) && name.slice(0, now.length) <= now).sort();
}

function stampOf(savedAt: string): string {
  return savedAt.replace(/[-:.]/g, "");
}

/** The newest copy that is whole, signed and still good; undefined if there is none. */
export async function loadCopy(directory: string): Promise<KeptCopy | undefined> {
  for (const { path, key } of await copiesOf(directory)) {
    const copy = (await isSigned(path, key)) ? copyIn(await readCopyLines(path).catch(() => [])) : undefined;
    const loaded = copy && (await judgeContent(await contentOf(copy)));
    if (loaded?.definitions) return { loaded, file: path, savedAt: copy!.savedAt };
  }
  return undefined;
}

/**
 * What the newest copy knows of texts that took long to parse: a start need not parse them again. The lists in it, which
 * may be large, are not read.
 */
export async function parsedBefore(directory: string): Promise<ParsedBefore> {
  for (const { path, key } of await copiesOf(directory)) {
    const copy = copyIn((await readSealedLines(path, key)) ?? []);
    if (copy) return (file, text) => (copy.files[file]?.text === text ? parsedOf(copy.files[file]) : undefined);
  }
  return () => undefined;
}

/** Where copies stand, the newest first, and the key by which they must be signed. */
async function copiesOf(directory: string): Promise<readonly { readonly path: string; readonly key: Buffer }[]> {
  const key = await knownKeyOf(directory);
  if (!key) return [];
  const names = await readdir(directory).catch(() => []);
  return copiesIn(names)
    .reverse()
    .map((name) => ({ path: join(directory, name), key }));
}

/** What the lines of a signed copy hold; undefined for none, and for one that is not of this time. */
function copyIn(lines: readonly unknown[]): Copy | undefined {
  const [head, ...rest] = lines as readonly [CopyHead, ...CopyLine[]];
  // Signed by this folder's key, so it is of the shape that its version says.
  if (head?.copy !== copyVersion || new Date(head.savedAt) > new Date()) return undefined;
  const files: Record<string, KeptText> = {};
  const isOfOurs = head.parser === parser;
  const lists: { readonly request: ListRequest; text: string }[] = [];
  const schemas: [string, unknown][] = [];
  let suspended: string | undefined;
  for (const line of rest) {
    if ("file" in line) files[line.file] = { text: line.text, parsed: isOfOurs ? line.parsed : undefined };
    else if ("suspended" in line) suspended = line.suspended;
    else if ("list" in line) lists.push({ request: line.list, text: "" });
    else if ("part" in line) lists.at(-1)!.text += line.part;
    else if ("schema" in line) schemas.push([line.schema, line.data]);
  }
  return { savedAt: head.savedAt, files, suspended, lists, schemas };
}

async function contentOf(copy: Copy): Promise<FolderContent> {
  const found = (file: string): FoundFile => ({ file, path: "", stamp: "copy", size: 0, changed: 0 });
  const definitions = Object.keys(copy.files).map(found);
  const suspended = copy.suspended === undefined ? undefined : found("suspended.yaml");
  const scan: FolderScan = {
    root: "",
    definitions,
    suspended,
    suspendedIsGone: suspended === undefined,
    localOverrides: undefined,
    directories: [],
    problems: [],
  };
  const texts: Readonly<Record<string, KeptText>> = {
    ...copy.files,
    ...(copy.suspended === undefined ? {} : { "suspended.yaml": { text: copy.suspended } }),
  };
  const files = new Map<string, LoadedFile>();
  for (const each of [...definitions, ...(suspended ? [suspended] : [])]) {
    const known = texts[each.file]!;
    files.set(each.file, LoadedFile.of(each, known.text, parsedOf(known) ?? (await readSource(each.file, known.text))));
  }
  const lists = new Map<string, LoadedList>();
  for (const { request, text } of copy.lists) {
    lists.set(listKey(request), { request, result: resultOf(packIds(text, request)), stamp: "copy", path: undefined });
  }
  const schemas = new Map(copy.schemas.map(([file, data]) => [file, { data }]));
  return { scan, files, lists, schemas, signature: "copy", tools: new FolderTools() };
}
