import type { Definitions } from "../../model/index.ts";
import type { FolderContent } from "../content.ts";
import { type FileName, fileName, isListFile, suspendedFile } from "../file-name.ts";
import { type Entry, type Files, stampOf } from "../files.ts";
import type { LoadedList } from "../lists.ts";
import type { ReadList } from "../parse/packed-list.ts";
import type { Blob } from "./blobs.ts";
import { type Keep, type KeptFile, type KeptSet, suspendedText } from "./keep.ts";
import { type KeptText, kept, type ParsedBefore, parsedOf, parser } from "./kept-text.ts";

/** Where lists are kept already, by what was read of them: an unchanged list of a million ids is not written again. */
const keptLists = new WeakMap<ReadList, KeptFile>();

/**
 * Keeps what is in force, from memory: the files may have changed in the meantime. Nothing large is worked on at once, so
 * that a service goes on answering.
 *
 * @param suspensions those that are in force with it, whatever its own file says or cannot say
 */
export async function keepSet(
  keep: Keep,
  content: FolderContent,
  suspensions: Definitions["suspensions"],
): Promise<void> {
  const savedAt = new Date().toISOString();
  const files: KeptFile[] = [];
  const put = async (name: string, text: string) => files.push({ name, ...(await keep.blobs.put(Buffer.from(text))) });
  for (const name of content.definitions) await put(name, content.files.get(name)!.text);
  await put(suspendedFile, suspendedText(suspensions));
  for (const [file, { schema }] of content.schemas) if (!schema.fault) await put(file, JSON.stringify(schema.data));
  for (const [file, lists] of listsByFile(content)) files.push(await keptList(keep, file, lists));
  const parsed = await keep.blobs.write(parsedLines(content));
  await keep.keep({ savedAt, files, parsed });
}

type GoodList = LoadedList & { readonly result: { readonly ids: Iterable<string>; readonly digest: string } };

function listsByFile({ lists }: FolderContent): Map<string, GoodList[]> {
  const byFile = new Map<string, GoodList[]>();
  for (const list of lists.values()) {
    const name = fileName(list.request.file);
    if (typeof name !== "string" || list.result.fault) continue;
    byFile.set(name, [...(byFile.get(name) ?? []), list as GoodList]);
  }
  return byFile;
}

async function keptList(keep: Keep, name: string, lists: readonly GoodList[]): Promise<KeptFile> {
  const [first] = lists;
  const known = lists.length === 1 ? keptLists.get(first!.result as ReadList) : undefined;
  if (known?.name === name && (await keep.blobs.has(known))) return known;
  const text = name.endsWith(".csv")
    ? csvOf(lists, (await import("csv-stringify/sync")).stringify)
    : lines(first!.result.ids);
  const made = { name, ...(await keep.blobs.write(text)) };
  if (lists.length === 1) keptLists.set(first!.result as ReadList, made);
  return made;
}

/** So many ids are written at once. */
const idsAtOnce = 1_000;

function* lines(ids: Iterable<string>): Generator<string> {
  let piece: string[] = [];
  for (const id of ids) {
    if (piece.push(id) < idsAtOnce) continue;
    yield `${piece.join("\n")}\n`;
    piece = [];
  }
  if (piece.length > 0) yield `${piece.join("\n")}\n`;
}

/** The columns that cohorts ask for, side by side. The first one has a name of its own where a cohort names none. */
function* csvOf(lists: readonly GoodList[], stringify: (rows: string[][]) => string): Generator<string> {
  const ordered = lists.toSorted(
    (one, other) => Number(one.request.column !== undefined) - Number(other.request.column !== undefined),
  );
  yield stringify([ordered.map(({ request }) => request.column ?? "the first column")]);
  const columns = ordered.map(({ result }) => result.ids[Symbol.iterator]());
  for (let rows: string[][] = []; ; rows = []) {
    while (rows.length < idsAtOnce) {
      const cells = columns.map((column) => column.next());
      if (cells.every(({ done }) => done)) break;
      rows.push(cells.map(({ value }) => (value as string | undefined) ?? ""));
    }
    if (rows.length === 0) return;
    yield stringify(rows);
  }
}

function* parsedLines({ definitions, files }: FolderContent): Generator<string> {
  yield `${JSON.stringify({ parser })}\n`;
  for (const name of definitions) {
    const { text, parsed } = files.get(name)!;
    const { parsed: written } = kept(name, text, parsed);
    if (written) yield `${JSON.stringify({ name, parsed: written })}\n`;
  }
}

/** The files of a set that is kept; each is compared with its digest when it is read. */
export function filesOfKept({ blobs }: Keep, { files }: KeptSet): Files {
  const entries = new Map<FileName, Entry>();
  for (const { name: written, sha256, size } of files) {
    const name = fileName(written);
    if (typeof name !== "string") continue;
    const bytes = () => blobs.read({ sha256, size });
    const path = isListFile(name) ? { path: blobs.path({ sha256, size }) } : {};
    entries.set(name, { file: name, mark: sha256, stamp: sha256, size, bytes, ...path });
  }
  return { stamp: stampOf(entries), entries, faults: [], isListed: true };
}

/** Gives what an earlier process has read of texts that took long to read: a start need not read them again. */
export async function parsedBefore(keep: Keep): Promise<ParsedBefore> {
  const [newest] = (await keep.record())?.sets ?? [];
  const lines = newest?.parsed ? await linesOf(keep, newest.parsed) : [];
  const texts = new Map(newest?.files.map(({ name, sha256 }) => [name, sha256]));
  const byName = new Map<string, string>();
  if (lines[0] === JSON.stringify({ parser }))
    for (const line of lines.slice(1)) byName.set(/^\{"name":("(?:[^"\\]|\\.)*")/.exec(line)?.[1] ?? "", line);
  return (file, sha256) => {
    const line = texts.get(file) === sha256() ? byName.get(JSON.stringify(file)) : undefined;
    return line === undefined ? undefined : parsedOf({ text: "", ...(JSON.parse(line) as Pick<KeptText, "parsed">) });
  };
}

async function linesOf({ blobs }: Keep, blob: Blob): Promise<string[]> {
  const bytes = await blobs.read(blob).catch(() => undefined);
  return bytes ? bytes.toString("utf8").split("\n") : [];
}
