import { createHash, randomUUID } from "node:crypto";
import { mkdir, open, readdir, readFile, rename, rm, stat } from "node:fs/promises";
import { join } from "node:path";
import type { ListRequest } from "../model/index.ts";
import { isObject } from "../values/index.ts";
import { type LoadedList, listKey, readIds } from "./lists.ts";
import { type FolderContent, FolderTools, judgeContent, type Loaded, type LoadedFile, loadedFile } from "./load.ts";
import { readText } from "./read-text.ts";
import type { FolderScan, FoundFile } from "./scan.ts";
import { readSource } from "./text-reader.ts";

/** Copies that are kept; the oldest go. */
const mostCopies = 3;

/** The shape of a copy; one of another shape is passed over. */
const copyVersion = 2;

interface Copy {
  readonly copy: typeof copyVersion;
  readonly savedAt: string;
  readonly files: Readonly<Record<string, string>>;
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
 * Keeps a copy of a good set: written aside, flushed, renamed, with its checksum in the first line. A process that dies
 * while writing leaves at worst a file that nobody reads.
 */
export async function keepCopy(directory: string, content: FolderContent): Promise<void> {
  const copy = await copyOf(content);
  if (!copy) return;
  // Copies are never more open than their sources: lists of ids are in them.
  await mkdir(directory, { recursive: true, mode: 0o700 });
  const body = JSON.stringify(copy);
  const aside = join(directory, `.${randomUUID()}.tmp`);
  const file = await open(aside, "wx", 0o600);
  try {
    await file.writeFile(`${checksum(body)}\n${body}`);
    await file.sync();
  } finally {
    await file.close();
  }
  const name = `${stampOf(copy.savedAt)}-${checksum(body).slice(0, 8)}.copy`;
  await rename(aside, join(directory, name));
  await removeOld(directory);
}

/** Half-written files older than this were left by a process that died; younger ones may be another's work. */
const abandonedAfter = 60_000;

async function removeOld(directory: string): Promise<void> {
  const names = await readdir(directory);
  const stale = copiesIn(names).slice(0, -mostCopies);
  for (const name of names.filter((each) => each.endsWith(".tmp"))) {
    const found = await stat(join(directory, name)).catch(() => undefined);
    if (found && Date.now() - found.mtimeMs > abandonedAfter) stale.push(name);
  }
  for (const name of stale) await rm(join(directory, name), { force: true });
}

/** Copies in the order in which they were saved; one that bears a future date does not make good ones go. */
function copiesIn(names: readonly string[]): string[] {
  const now = stampOf(new Date().toISOString());
  return names.filter((name) => name.endsWith(".copy") && name.slice(0, now.length) <= now).sort();
}

function stampOf(savedAt: string): string {
  return savedAt.replace(/[-:.]/g, "");
}

async function copyOf({ scan, files, lists, schemas }: FolderContent): Promise<Copy | undefined> {
  const texts: Record<string, string> = {};
  for (const { file } of scan.definitions) texts[file] = files.get(file)!.text;
  const kept: Copy["lists"][number][] = [];
  for (const { request, path } of lists.values()) {
    const text = path === undefined ? undefined : await readText(path);
    if (typeof text !== "string") return undefined;
    kept.push({ request, text });
  }
  const suspended = scan.suspended && files.get(scan.suspended.file)?.text;
  const held = [...schemas].flatMap(([file, schema]) => (schema.fault ? [] : [[file, schema.data] as const]));
  const savedAt = new Date().toISOString();
  return { copy: copyVersion, savedAt, files: texts, suspended, lists: kept, schemas: held };
}

function checksum(body: string): string {
  return createHash("sha256").update(body).digest("hex");
}

/** The newest copy that is whole and still good; undefined if there is none. */
export async function loadCopy(directory: string): Promise<KeptCopy | undefined> {
  const names = await readdir(directory).catch(() => []);
  for (const name of copiesIn(names).reverse()) {
    const file = join(directory, name);
    const copy = await readCopy(file);
    const loaded = copy && (await judgeContent(await contentOf(copy)));
    if (loaded?.definitions) return { loaded, file, savedAt: copy!.savedAt };
  }
  return undefined;
}

async function readCopy(file: string): Promise<Copy | undefined> {
  try {
    const text = await readFile(file, "utf8");
    const end = text.indexOf("\n");
    const body = text.slice(end + 1);
    const copy: unknown = checksum(body) === text.slice(0, end) ? JSON.parse(body) : undefined;
    return isCopy(copy) ? copy : undefined;
  } catch {
    return undefined;
  }
}

function isCopy(copy: unknown): copy is Copy {
  if (!isObject(copy) || copy["copy"] !== copyVersion) return false;
  const { savedAt, files, lists, schemas } = copy;
  return typeof savedAt === "string" && isObject(files) && Array.isArray(lists) && Array.isArray(schemas);
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
  const texts: Readonly<Record<string, string>> = {
    ...copy.files,
    ...(copy.suspended === undefined ? {} : { "suspended.yaml": copy.suspended }),
  };
  const files = new Map<string, LoadedFile>();
  for (const each of [...definitions, ...(suspended ? [suspended] : [])]) {
    const text = texts[each.file]!;
    files.set(each.file, loadedFile(each, text, await readSource(each.file, text)));
  }
  const lists = new Map<string, LoadedList>();
  for (const { request, text } of copy.lists) {
    lists.set(listKey(request), { request, result: readIds(text, request), stamp: "copy", path: undefined });
  }
  const schemas = new Map(copy.schemas.map(([file, data]) => [file, { data }]));
  return { scan, files, lists, schemas, signature: "copy", tools: new FolderTools() };
}
