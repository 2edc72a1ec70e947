import { isAbsolute } from "node:path";
import { isDefinitionFile, localOverridesFile } from "../files/index.ts";
import { isObject, limits, own } from "../values/index.ts";
import { EditionFault } from "./faults.ts";
import { formVersion, inMegabytes, instant, maxFiles, payloadIn, setName, textOf, wholeNumberOf } from "./list-text.ts";

/** A file of an edition. */
export interface EditionFile {
  /** Relative to the definition folder, with forward slashes. */
  readonly path: string;
  /** SHA-256 of its bytes, as 64 hex digits; the name under which it is stored. */
  readonly sha256: string;
  /** Its size. */
  readonly bytes: number;
}

/** A published, immutable definition set. */
export interface Edition {
  /** The name of the definition set. */
  readonly set: string;
  /** Grows with every edition of a set. */
  readonly number: number;
  /** The revision of the definitions. */
  readonly revision: string;
  /** When it was published, by the publisher's clock: an instant of RFC 3339. */
  readonly published: string;
  /** Who published it. */
  readonly by: string;
  /** Why. */
  readonly note: string;
  /** The number of the list of stops that stood when it was published; 0 where there was none. */
  readonly stops: number;
  readonly files: readonly EditionFile[];
}

/** The payload of an edition's list. */
export function payloadOf(edition: Edition): string {
  return JSON.stringify({ edition: formVersion, ...edition });
}

/**
 * Reads the payload of an edition's list.
 *
 * @throws {EditionFault} that says what is wrong; nothing of it can then be trusted
 */
export function readPayload(text: string): Edition {
  const data = payloadIn(text, "edition");
  if (own(data, "stops") === undefined)
    throw new EditionFault("it is of an earlier shape, in which stops were editions; publish the folder anew");
  const files = own(data, "files");
  if (!Array.isArray(files)) throw new EditionFault("it lists no files");
  if (files.length > maxFiles)
    throw new EditionFault(`it lists ${files.length.toLocaleString("en")} files, and at most ${maxFiles} are taken`);
  const edition: Edition = {
    set: textOf(data, "set", setName),
    number: wholeNumberOf(data, "number", 1),
    revision: textOf(data, "revision", /^[0-9a-f]{32}$/),
    published: textOf(data, "published", instant),
    by: textOf(data, "by", /^[\s\S]{0,200}$/),
    note: textOf(data, "note", /^[\s\S]{0,10000}$/),
    stops: wholeNumberOf(data, "stops", 0),
    files: files.map(fileOf),
  };
  mustFit(edition.files);
  return edition;
}

function fileOf(value: unknown): EditionFile {
  if (!isObject(value)) throw new EditionFault("one of its files is not an object");
  const path = textOf(value, "path", /^[^\0\\]{1,1000}$/);
  if (!isInside(path))
    throw new EditionFault(`it lists the file “${path.slice(0, 100)}”, which leads out of the folder`);
  return { path, sha256: textOf(value, "sha256", /^[0-9a-f]{64}$/), bytes: wholeNumberOf(value, "bytes", 0) };
}

function isInside(path: string): boolean {
  return !isAbsolute(path) && path.split("/").every((part) => part !== "" && part !== "." && part !== "..");
}

/** Sizes are refused by what the list promises, before anything is fetched. */
function mustFit(files: readonly EditionFile[]): void {
  const names = new Set(files.map(({ path }) => path));
  if (names.size !== files.length) throw new EditionFault("it lists a file twice");
  if (names.has(localOverridesFile))
    throw new EditionFault(`it lists ${localOverridesFile}, which belongs to a machine`);
  let definitions = 0;
  let lists = 0;
  for (const { path, bytes } of files) {
    const isList = /\.(?:csv|txt)$/.test(path);
    const most = isList ? limits.listBytes : limits.fileBytes;
    if (!isList && !isDefinitionFile(path) && !path.endsWith(".schema.json"))
      throw new EditionFault(`it lists “${path}”, which is neither a definition file nor a list nor a schema`);
    if (bytes > most)
      throw new EditionFault(`“${path}” has ${inMegabytes(bytes)}, and at most ${inMegabytes(most)} are taken`);
    if (isList) lists += bytes;
    else definitions += bytes;
  }
  if (definitions > limits.folderBytes || lists > limits.allListBytes)
    throw new EditionFault(`its files have ${inMegabytes(definitions + lists)} together, which is too much`);
}

/** An edition at the beginning of a sentence: by its number, where that is known. */
export function calledEdition(number: number | undefined): string {
  return number === undefined ? "The newest edition" : `Edition ${number}`;
}
