import { ReadingMemory } from "../reading/index.ts";
import { Aside } from "./aside.ts";
import type { SchemaFile } from "./json-schemas.ts";
import { foundAt, type LoadedList } from "./lists.ts";
import type { LoadedFile } from "./loaded-file.ts";
import type { Texts } from "./located.ts";
import { type FolderScan, type FoundFile, scanFolder, signatureOf } from "./scan.ts";
import { loadSchemas } from "./schema-files.ts";
import { Settled } from "./settled.ts";

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
  readonly settled = new Settled();
}

/** The files that a scan found, the suspensions among them. */
export function filesOf({ definitions, suspended }: FolderScan): FoundFile[] {
  return [...definitions, ...(suspended ? [suspended] : [])];
}

export function textsOf({ files }: FolderContent): Texts {
  return { get: (file) => files.get(file)?.text };
}

/** Packs the texts of files for as long as nobody looks at them, one after the other; nothing waits for it. */
export function putTextsAway({ files }: FolderContent): void {
  const packing = async () => {
    for (const file of files.values()) await file.putAway();
  };
  // A text that cannot be packed stays as it is.
  packing().catch(() => {});
}

/** The signature that a reading would have now, list files included: what tells whether reading again is worth it. */
export async function currentSignature(folder: string, content: FolderContent): Promise<string> {
  const scan = await scanFolder(folder);
  const stamps: string[] = [];
  const { settled } = content.tools;
  for (const [key, { request, young }] of content.lists) {
    const found = scan.root === undefined ? undefined : await foundAt(scan.root, request.file);
    const isYoung = young && found !== undefined && !settled.has(found.path, found.stamp);
    stamps.push(`${key}:${found?.stamp}${isYoung ? "?" : ""}`);
  }
  const schemas = await loadSchemas(scan.root, content.schemas.keys());
  const young = filesOf(scan).filter(
    ({ file, path, stamp }) => content.files.get(file)?.young && !settled.has(path, stamp),
  );
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
  const stamps = [...lists].map(([key, list]) => `${key}:${list.stamp}${list.young ? "?" : ""}`);
  return [signatureOf(scan), ...young, ...failed, ...stamps, schemaSignature(schemas)].join("\n");
}

function schemaSignature(schemas: ReadonlyMap<string, SchemaFile>): string {
  return schemas.size === 0 ? "" : JSON.stringify([...schemas]);
}
