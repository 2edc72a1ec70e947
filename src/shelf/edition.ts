import { isAbsolute } from "node:path";
import { isDefinitionFile, localOverridesFile } from "../files/index.ts";
import { isObject, limits, own } from "../values/index.ts";
import { EditionFault } from "./faults.ts";

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
  readonly files: readonly EditionFile[];
  /** Whether it differs from the edition before it in nothing but what is suspended. */
  readonly suspending?: true | undefined;
}

/** The version of the list's form that this code reads and writes. */
const formVersion = 1;

/** Names of sets: they are parts of keys, channels and paths. */
export const setName = /^[A-Za-z][A-Za-z0-9_.-]{0,99}$/;

/** What the set of a shelf is called unless somebody says otherwise. */
export const defaultSet = "flags";

/** More files than definitions, schemas and lists of a sound folder can be. */
const maxFiles = 3 * limits.files;

/** The largest list of files that is read, in bytes. */
export const longestList = 2 * 2 ** 20;

/** What is said of a longer one. */
export const tooLong = `its list is longer than ${longestList / 2 ** 20} MB`;

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
  const data = parsed(text);
  const version = own(data, "edition");
  if (version !== formVersion) {
    throw new EditionFault(
      `it is of form ${JSON.stringify(version) ?? "unknown"}, and this version of Iudex reads form ${formVersion}`,
    );
  }
  const files = own(data, "files");
  if (!Array.isArray(files)) throw new EditionFault("it lists no files");
  if (files.length > maxFiles)
    throw new EditionFault(`it lists ${files.length.toLocaleString("en")} files, and at most ${maxFiles} are taken`);
  const edition: Edition = {
    set: textOf(data, "set", setName),
    number: wholeNumberOf(data, "number", 1),
    revision: textOf(data, "revision", /^[0-9a-f]{32}$/),
    published: textOf(data, "published", /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:\.\d+)?Z$/),
    by: textOf(data, "by", /^[\s\S]{0,200}$/),
    note: textOf(data, "note", /^[\s\S]{0,10000}$/),
    files: files.map(fileOf),
    ...(own(data, "suspending") === true ? { suspending: true as const } : {}),
  };
  mustFit(edition.files);
  return edition;
}

function parsed(text: string): object {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    throw new EditionFault("its payload is no JSON");
  }
  if (!isObject(data)) throw new EditionFault("its payload is no object");
  return data;
}

function textOf(data: object, key: string, form: RegExp): string {
  const value = own(data, key);
  if (typeof value === "string" && form.test(value)) return value;
  throw new EditionFault(`its “${key}” is ${shown(value)}`);
}

function wholeNumberOf(data: object, key: string, least: number): number {
  const value = own(data, key);
  if (typeof value === "number" && Number.isSafeInteger(value) && value >= least) return value;
  throw new EditionFault(`its “${key}” is ${shown(value)}`);
}

function shown(value: unknown): string {
  return value === undefined ? "missing" : `not what it must be: ${(JSON.stringify(value) ?? "?").slice(0, 80)}`;
}

function fileOf(value: unknown): EditionFile {
  if (!isObject(value)) throw new EditionFault("one of its files is no object");
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

function inMegabytes(bytes: number): string {
  return `${(bytes / 2 ** 20).toFixed(bytes < 100 * 2 ** 20 ? 1 : 0)} MB`;
}

/** An edition at the beginning of a sentence: by its number, where that is known. */
export function calledEdition(number: number | undefined): string {
  return number === undefined ? "The newest edition" : `Edition ${number}`;
}

/** The number that a list claims, unverified: it only tells whether somebody was quicker. */
export function claimedNumber(list: string): number | undefined {
  if (list.length > longestList) return undefined;
  try {
    const { payload } = JSON.parse(list) as { payload: string };
    const { number } = JSON.parse(Buffer.from(payload, "base64url").toString("utf8")) as { number: unknown };
    return typeof number === "number" ? number : undefined;
  } catch {
    return undefined;
  }
}
