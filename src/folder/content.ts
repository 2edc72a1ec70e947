import { ReadingMemory } from "../reading/index.ts";
import type { Document } from "../source/index.ts";
import { Aside } from "./aside.ts";
import type { SchemaFile } from "./json-schemas.ts";
import { type LoadedList, stampOf } from "./lists.ts";
import type { ParsedText } from "./parsed-file.ts";
import { coarse, type FolderScan, type FoundFile, scanFolder, signatureOf } from "./scan.ts";
import { loadSchemas } from "./schema-files.ts";

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

/** The files that a scan found, the suspensions among them. */
export function filesOf({ definitions, suspended }: FolderScan): FoundFile[] {
  return [...definitions, ...(suspended ? [suspended] : [])];
}

export function textsOf({ files }: FolderContent): ReadonlyMap<string, string> {
  return new Map([...files].map(([file, { text }]) => [file, text]));
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

/** The signature of what was read. */
export function contentSignature(
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
