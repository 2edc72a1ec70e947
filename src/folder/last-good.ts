import { randomUUID } from "node:crypto";
import { readdir, rm } from "node:fs/promises";
import { join } from "node:path";
import { IdSet } from "../ids/index.ts";
import type { Definitions, ListRequest } from "../model/index.ts";
import { removeAbandoned } from "./abandoned.ts";
import { type FolderContent, FolderTools } from "./content.ts";
import { type CopyWriter, isSigned, knownKeyOf, readCopyLines, readSealedLines, writeCopyFile } from "./copy-file.ts";
import { judgeContent } from "./judge-content.ts";
import { type KeptSuspensions, loadSuspensions, suspendedText } from "./kept-suspensions.ts";
import { type KeptText, kept, type ParsedBefore, parsedOf, parser } from "./kept-text.ts";
import { type LoadedList, listKey } from "./lists.ts";
import { LoadedFile } from "./loaded-file.ts";
import { type FolderScan, type FoundFile, suspendedFile } from "./scan.ts";
import { readSource } from "./text-reader.ts";

/** Copies that are kept; the oldest go. */
const mostCopies = 3;

/** The shape of a copy; one of another shape is passed over, and left to whoever wrote it. */
const copyVersion = 5;
const ending = `.v${copyVersion}.copy`;

/** So many ids of a list stand in one line. */
const idsInLine = 1_000;

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
  | { readonly list: ListRequest; readonly digest: string }
  | { readonly ids: readonly string[] }
  | { readonly schema: string; readonly data: unknown };

interface Copy {
  readonly savedAt: string;
  readonly files: Readonly<Record<string, KeptText>>;
  readonly suspended: string;
  readonly lists: readonly KeptList[];
  readonly schemas: readonly (readonly [file: string, data: unknown])[];
}

interface KeptList {
  readonly request: ListRequest;
  readonly digest: string;
  readonly ids: string[];
}

/** The newest good copy of a set. */
export interface KeptCopy {
  readonly definitions: Definitions;
  readonly file: string;
  readonly savedAt: string;
}

/** What is kept for a start at which the files cannot be used. */
export interface Kept {
  readonly copy: KeptCopy | undefined;
  /** What was suspended last; undefined where it is not known. */
  readonly suspended: KeptSuspensions | undefined;
}

/**
 * Keeps a copy of what is in force, from memory: the files may have changed meanwhile. A process that dies while writing
 * leaves at worst a file that nobody reads. Nothing large is worked on at once, so that a service goes on answering.
 *
 * @param suspensions those that are in force with it, whatever its own file says or cannot say
 */
export async function keepCopy(
  directory: string,
  content: FolderContent,
  suspensions: Definitions["suspensions"],
): Promise<void> {
  const savedAt = new Date().toISOString();
  const name = `${stampOf(savedAt)}-${randomUUID().slice(0, 8)}${ending}`;
  const key = await writeCopyFile(directory, name, async (writer) => {
    await writer.line({ copy: copyVersion, savedAt, parser } satisfies CopyHead);
    for (const line of definitionLines(content)) await writer.line(line);
    await writer.seal();
    await writer.line({ suspended: suspendedText(suspensions) } satisfies CopyLine);
    await writeOthers(writer, content);
  });
  await removeOld(directory, key);
  await removeAbandoned(directory);
}

function* definitionLines({ scan, files }: FolderContent): Generator<CopyLine> {
  for (const { file } of scan.definitions) {
    const { text, parsed } = files.get(file)!;
    yield { file, ...kept(file, text, parsed) };
  }
}

async function writeOthers(writer: CopyWriter, { lists, schemas }: FolderContent): Promise<void> {
  const write = (line: CopyLine) => writer.line(line);
  for (const [file, schema] of schemas) if (!schema.fault) await write({ schema: file, data: schema.data });
  for (const { request, result } of lists.values()) {
    if (result.fault) continue;
    await write({ list: request, digest: result.digest });
    for (const ids of inLines(result.ids)) await write({ ids });
  }
}

function* inLines(all: Iterable<string>): Generator<string[]> {
  let ids: string[] = [];
  for (const id of all) {
    if (ids.push(id) < idsInLine) continue;
    yield ids;
    ids = [];
  }
  if (ids.length > 0) yield ids;
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

/** The newest copy that is whole, signed and still good, and what was suspended last; where that is lost, what was then. */
export async function loadKept(directory: string): Promise<Kept> {
  const copy = await loadCopy(directory);
  const withCopy = copy && { suspensions: copy.definitions.suspensions, savedAt: copy.savedAt };
  return { copy, suspended: (await loadSuspensions(directory)) ?? withCopy };
}

async function loadCopy(directory: string): Promise<KeptCopy | undefined> {
  for (const { path, key } of await copiesOf(directory)) {
    const copy = (await isSigned(path, key)) ? copyIn(await readCopyLines(path).catch(() => [])) : undefined;
    const definitions = copy && (await judgeContent(await contentOf(copy))).definitions;
    if (definitions) return { definitions, file: path, savedAt: copy.savedAt };
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
  const lists: KeptList[] = [];
  const schemas: [string, unknown][] = [];
  let suspended = "";
  for (const line of rest) {
    if ("file" in line) files[line.file] = { text: line.text, parsed: isOfOurs ? line.parsed : undefined };
    else if ("suspended" in line) suspended = line.suspended;
    else if ("list" in line) lists.push({ request: line.list, digest: line.digest, ids: [] });
    else if ("ids" in line) for (const id of line.ids) lists.at(-1)!.ids.push(id);
    else if ("schema" in line) schemas.push([line.schema, line.data]);
  }
  return { savedAt: head.savedAt, files, suspended, lists, schemas };
}

async function contentOf(copy: Copy): Promise<FolderContent> {
  const found = (file: string): FoundFile => ({ file, path: "", stamp: "copy", size: 0, changed: 0 });
  const definitions = Object.keys(copy.files).map(found);
  const suspended = found(suspendedFile);
  const scan: FolderScan = {
    root: "",
    definitions,
    suspended,
    suspendedIsGone: false,
    localOverrides: undefined,
    directories: [],
    problems: [],
    settledBefore: 1,
  };
  const texts: Readonly<Record<string, KeptText>> = { ...copy.files, [suspendedFile]: { text: copy.suspended } };
  const files = new Map<string, LoadedFile>();
  for (const each of [...definitions, suspended]) {
    const known = texts[each.file]!;
    files.set(each.file, LoadedFile.of(each, known.text, parsedOf(known) ?? (await readSource(each.file, known.text))));
  }
  const lists = new Map<string, LoadedList>();
  for (const { request, digest, ids } of copy.lists) {
    const result = { ids: IdSet.from(ids), digest };
    lists.set(listKey(request), { request, result, stamp: "copy", path: undefined });
  }
  const schemas = new Map(copy.schemas.map(([file, data]) => [file, { data }]));
  return { scan, files, lists, schemas, signature: "copy", tools: new FolderTools() };
}
