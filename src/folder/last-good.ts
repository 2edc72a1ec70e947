import { createHash, randomUUID } from "node:crypto";
import { mkdir, open, readdir, readFile, rename, rm, stat } from "node:fs/promises";
import { join } from "node:path";
import type { ListRequest } from "../core.ts";
import { type LoadedList, listKey, readIds } from "./lists.ts";
import { type FolderContent, judgeContent, type Loaded, type LoadedFile, loadedFile } from "./load.ts";
import { parseText } from "./parse.ts";
import { readText } from "./read-text.ts";
import type { FolderScan, FoundFile } from "./scan.ts";

/** Copies that are kept; the oldest go. */
const mostCopies = 3;

interface Copy {
  readonly copy: 1;
  readonly savedAt: string;
  readonly files: Readonly<Record<string, string>>;
  readonly suspended: string | undefined;
  readonly lists: readonly { readonly request: ListRequest; readonly text: string }[];
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
  await mkdir(directory, { recursive: true });
  const body = JSON.stringify(copy);
  const aside = join(directory, `.${randomUUID()}.tmp`);
  const file = await open(aside, "wx");
  try {
    await file.writeFile(`${checksum(body)}\n${body}`);
    await file.sync();
  } finally {
    await file.close();
  }
  const name = `${copy.savedAt.replace(/[-:.]/g, "")}-${checksum(body).slice(0, 8)}.copy`;
  await rename(aside, join(directory, name));
  await removeOld(directory);
}

/** Half-written files older than this were left by a process that died; younger ones may be another's work. */
const abandonedAfter = 60_000;

async function removeOld(directory: string): Promise<void> {
  const names = await readdir(directory);
  const copies = names.filter((name) => name.endsWith(".copy")).sort();
  const stale = copies.slice(0, -mostCopies);
  for (const name of names.filter((each) => each.endsWith(".tmp"))) {
    const found = await stat(join(directory, name)).catch(() => undefined);
    if (found && Date.now() - found.mtimeMs > abandonedAfter) stale.push(name);
  }
  for (const name of stale) await rm(join(directory, name), { force: true });
}

async function copyOf({ scan, files, lists }: FolderContent): Promise<Copy | undefined> {
  const texts: Record<string, string> = {};
  for (const { file } of scan.definitions) texts[file] = files.get(file)!.text;
  const kept: Copy["lists"][number][] = [];
  for (const { request, path } of lists.values()) {
    const text = path === undefined ? undefined : await readText(path);
    if (typeof text !== "string") return undefined;
    kept.push({ request, text });
  }
  const suspended = scan.suspended && files.get(scan.suspended.file)?.text;
  return { copy: 1, savedAt: new Date().toISOString(), files: texts, suspended, lists: kept };
}

function checksum(body: string): string {
  return createHash("sha256").update(body).digest("hex");
}

/** The newest copy that is whole and still good; undefined if there is none. */
export async function loadCopy(directory: string): Promise<KeptCopy | undefined> {
  const names = await readdir(directory).catch(() => []);
  const copies = names.filter((name) => name.endsWith(".copy")).sort();
  for (const name of copies.reverse()) {
    const file = join(directory, name);
    const copy = await readCopy(file);
    const loaded = copy && (await judgeContent(contentOf(copy)));
    if (loaded?.definitions) return { loaded, file, savedAt: copy!.savedAt };
  }
  return undefined;
}

async function readCopy(file: string): Promise<Copy | undefined> {
  try {
    const text = await readFile(file, "utf8");
    const end = text.indexOf("\n");
    const body = text.slice(end + 1);
    return checksum(body) === text.slice(0, end) ? (JSON.parse(body) as Copy) : undefined;
  } catch {
    return undefined;
  }
}

function contentOf(copy: Copy): FolderContent {
  const found = (file: string): FoundFile => ({ file, path: "", stamp: "copy", size: 0, changed: 0 });
  const definitions = Object.keys(copy.files).map(found);
  const suspended = copy.suspended === undefined ? undefined : found("suspended.yaml");
  const scan: FolderScan = {
    root: "",
    definitions,
    suspended,
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
    files.set(each.file, loadedFile(each, text, parseText(each.file, text)));
  }
  const lists = new Map<string, LoadedList>();
  for (const { request, text } of copy.lists) {
    lists.set(listKey(request), { request, result: readIds(text, request), stamp: "copy", path: undefined });
  }
  return { scan, files, lists, signature: "copy" };
}
