import { randomBytes } from "node:crypto";
import { decodeText, type FileName, idsIn, type Loaded, requireFileName } from "../../files/index.ts";
import { isListed, type ListCohort, saltedDigest } from "../../model/index.ts";
import { isObject, own } from "../../values/index.ts";
import type { Edit } from "../edit.ts";
import { editText } from "../edit-text.ts";
import type { Contents } from "./snapshot.ts";

/**
 * The files with the ids of list cohorts as salted digests: each list in a file of its own, in the order of its digests,
 * and the original ones left out. A salt that stands on the shelf already stays, so that lists that have not changed
 * need not be fetched again.
 *
 * @param loaded the files as they were read; where they cannot be used they stay as they are, and are refused later
 */
export function hashLists(files: Contents, loaded: Loaded, standing: Loaded | undefined): Contents {
  const { definitions } = loaded;
  if (!definitions) return files;
  const hashed = new Map(files);
  const lists = [...definitions.cohorts.values()].filter((cohort) => cohort.kind === "list");
  for (const { file } of lists) if (file !== undefined) hashed.delete(requireFileName(file));
  for (const cohort of lists) {
    if (cohort.hashed === undefined) hashList(cohort, saltOf(cohort.name, standing), loaded, files, hashed);
    else if (cohort.file !== undefined)
      hashed.set(requireFileName(cohort.file), files.get(requireFileName(cohort.file))!);
  }
  leaveOutExamples(lists, loaded, hashed);
  return hashed;
}

/** Examples that name somebody on a list would tell of him. They have held already, where the lists are. */
function leaveOutExamples(
  lists: readonly ListCohort[],
  { content, definitions }: Loaded,
  hashed: Map<FileName, Uint8Array>,
): void {
  for (const { place } of definitions!.flags.values()) {
    const examples = valueAt(content.files.get(place.file)?.parsed.data, [...place.path, "for-instance"]);
    if (!Array.isArray(examples)) continue;
    const telling = [...examples.keys()].filter((i) => lists.some((cohort) => tells(examples[i], cohort)));
    const edits = telling.reverse().map((i): Edit => ({ edit: "remove", path: [...place.path, "for-instance", i] }));
    if (telling.length === examples.length)
      edits.splice(0, edits.length, { edit: "remove", path: [...place.path, "for-instance"] });
    if (edits.length > 0)
      hashed.set(
        place.file as FileName,
        bytesOf(editText(place.file, textOf(hashed.get(place.file as FileName)), edits)),
      );
  }
}

function tells(example: unknown, cohort: ListCohort): boolean {
  const id = valueAt(example, ["as", ...cohort.of]);
  return (typeof id === "string" || typeof id === "number") && isListed(cohort, String(id));
}

function saltOf(name: string, standing: Loaded | undefined): string {
  const known = standing?.definitions?.cohorts.get(name);
  return (known?.kind === "list" ? known.hashed : undefined) ?? randomBytes(16).toString("base64url");
}

function hashList(
  cohort: ListCohort,
  salt: string,
  loaded: Loaded,
  files: Contents,
  hashed: Map<FileName, Uint8Array>,
): void {
  const { place, column } = cohort;
  const ids = cohort.file === undefined ? idsInPlace(place, loaded) : idsInFile(cohort.file, column, files);
  const digests = ids.map((id) => saltedDigest(salt, id)).sort();
  const edit = (key: string, value?: unknown): Edit => {
    const path = [...place.path, key];
    return value === undefined ? { edit: "remove", path } : { edit: "set", path, value };
  };
  const edits: Edit[] = [edit("hashed", salt)];
  // A list file that holds nothing would be taken for one that was cut off.
  const isFile = cohort.file !== undefined && digests.length > 0;
  const list = requireFileName(`hashed/${cohort.name}.txt`);
  if (column !== undefined) edits.push(edit("column"));
  if (cohort.file !== undefined && !isFile) edits.push(edit("file"));
  edits.push(isFile ? edit("file", list) : edit("ids", digests));
  hashed.set(place.file as FileName, bytesOf(editText(place.file, textOf(hashed.get(place.file as FileName)), edits)));
  if (isFile) hashed.set(list, bytesOf(`${digests.join("\n")}\n`));
}

function idsInFile(file: string, column: string | undefined, files: Contents): readonly string[] {
  const ids = idsIn(textOf(files.get(requireFileName(file))), { file, column });
  return Array.isArray(ids) ? ids : [];
}

/** As they stand in the definition; a number is its decimal text. */
function idsInPlace({ file, path }: ListCohort["place"], { content }: Loaded): readonly string[] {
  const data = content.files.get(file)?.parsed.data;
  const ids = valueAt(data, [...path, "ids"]);
  return Array.isArray(ids) ? ids.map(String) : [];
}

function valueAt(data: unknown, path: readonly (string | number)[]): unknown {
  return path.reduce<unknown>(
    (value, step) => (isObject(value) || Array.isArray(value) ? own(value, String(step)) : undefined),
    data,
  );
}

function textOf(bytes: Uint8Array | undefined): string {
  return decodeText(bytes ?? new Uint8Array()) ?? "";
}

function bytesOf(text: string): Uint8Array {
  return new TextEncoder().encode(text);
}
