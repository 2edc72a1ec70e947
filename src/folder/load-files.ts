import { limits } from "../values/index.ts";
import type { Aside } from "./aside.ts";
import { type FolderContent, type FolderTools, filesOf } from "./content.ts";
import type { ParsedBefore } from "./kept-text.ts";
import { LoadedFile } from "./loaded-file.ts";
import type { FileFault } from "./parsed-file.ts";
import { readText } from "./read-text.ts";
import { type FolderScan, type FoundFile, scanFolder, suspendedFile } from "./scan.ts";
import { folderTooLarge, tooLarge } from "./too-large.ts";

/** Open files are a scarce thing. */
const filesAtOnce = 32;

/**
 * Parses the files that have changed since `before`, while nobody waits for them yet. Nothing is judged by it: a file
 * counts only if it is found unchanged when the folder is read in earnest.
 */
export async function readAhead(folder: string, before: FolderContent): Promise<ReadonlyMap<string, LoadedFile>> {
  const scan = await scanFolder(folder);
  const changed = filesOf(scan).filter((found) => before.files.get(found.file)?.found.stamp !== found.stamp);
  const files = new Map<string, LoadedFile>();
  const reader = readerOf(scan, before.tools);
  for (const found of changed.slice(0, filesAtOnce)) files.set(found.file, await loadFile(found, reader));
  return files;
}

type Known = ReadonlyMap<string, LoadedFile> | undefined;

/** Where a file need not be read, or its text not be parsed. */
interface KnownFiles {
  readonly before?: Known;
  readonly ahead?: Known;
  readonly good?: Known;
  /** What an earlier process has read of texts. */
  readonly parsedBefore?: ParsedBefore | undefined;
}

export async function loadFiles(
  scan: FolderScan,
  tools: FolderTools,
  { before, ahead, good, parsedBefore }: KnownFiles,
): Promise<Map<string, LoadedFile>> {
  const files = new Map<string, LoadedFile>();
  const reader = readerOf(scan, tools);
  const wanted = filesOf(scan);
  const tooMuch = beyond(wanted, limits.folderBytes);
  for (let i = 0; i < wanted.length; i += filesAtOnce) {
    const loading = wanted.slice(i, i + filesAtOnce).map((found) => {
      if (found.file !== suspendedFile && tooMuch.has(found)) return unreadable(found, folderTooLarge, false);
      const standing = good?.get(found.file);
      // Somebody goes on writing it, so that it looks as it did.
      if (standing?.found === found) return standing;
      const known = [before?.get(found.file), ahead?.get(found.file)].find((file) => file?.found.stamp === found.stamp);
      return known && !known.failed && !known.young ? known : loadFile(found, reader, { known, parsedBefore });
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

interface Reader {
  readonly aside: Aside;
  /** True if a file may change again under the same stamp. */
  isYoung(found: FoundFile): boolean;
}

function readerOf({ settledBefore }: FolderScan, { aside, settled }: FolderTools): Reader {
  return { aside, isYoung: ({ path, stamp, changed }) => !settled.has(path, stamp) && changed >= settledBefore };
}

/** Reads a file; one whose text is the same as `known` keeps its document. */
async function loadFile(
  found: FoundFile,
  { aside, isYoung }: Reader,
  { known, parsedBefore }: { readonly known?: LoadedFile | undefined } & Pick<KnownFiles, "parsedBefore"> = {},
): Promise<LoadedFile> {
  const large = tooLarge(found.size);
  if (large) return unreadable(found, large, false);
  const young = isYoung(found);
  const text = await readText(found.path);
  if (typeof text !== "string") {
    return unreadable(found, { ...text, range: { start: 0, end: 0 } }, text.code === "file-unreadable");
  }
  if (known && !known.failed && known.text === text) return known.foundAgain(found, young);
  const parsed = parsedBefore?.(found.file, text) ?? (await aside.parse(found.file, text));
  return LoadedFile.of(found, text, parsed, { young });
}

function unreadable(found: FoundFile, fault: FileFault, failed: boolean): LoadedFile {
  return LoadedFile.of(found, "", { data: undefined, spellings: new Map(), faults: [fault] }, { failed });
}
