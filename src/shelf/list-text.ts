import { isObject, limits, own } from "../values/index.ts";
import { EditionFault } from "./faults.ts";

// What the two lists of a shelf have in common: its editions' and its stops'.

/** Names of sets: they are parts of keys, channels and paths. */
export const setName = /^[A-Za-z][A-Za-z0-9_.-]{0,99}$/;

/** What the set of a shelf is called unless somebody says otherwise. */
export const defaultSet = "flags";

/** The largest list that is read, in bytes. */
export const longestList = 2 * 2 ** 20;

/** What is said of a longer one. */
export const tooLong = `its list is longer than ${longestList / 2 ** 20} MB`;

/** A number is above the largest that is known by at most this: a list that skips further would block all that come after it. */
export const furthestStep = 2 ** 20;

/** Texts of lists are told and noted up to this length, in characters. */
const longestTold = 200;

/** The version of the form that this code reads and writes. */
export const formVersion = 1;

/** A text of a list, as far as it is told. */
export function cut(text: string): string {
  return text.length <= longestTold ? text : `${text.slice(0, longestTold)}…`;
}

/** The payload of a list, whose form stands under a key. @throws {EditionFault} */
export function payloadIn(text: string, key: string): object {
  let data: unknown;
  try {
    data = JSON.parse(text);
  } catch {
    throw new EditionFault("its payload is not JSON");
  }
  if (!isObject(data)) throw new EditionFault("its payload is not an object");
  const version = own(data, key);
  if (version === formVersion) return data;
  throw new EditionFault(
    `it is of form ${cut(JSON.stringify(version) ?? "unknown")}, and this version of Iudex reads form ${formVersion}`,
  );
}

export function textOf(data: object, key: string, form: RegExp): string {
  const value = own(data, key);
  if (typeof value === "string" && form.test(value)) return value;
  throw new EditionFault(`its “${key}” is ${shown(value)}`);
}

export function wholeNumberOf(data: object, key: string, least: number): number {
  const value = own(data, key);
  if (typeof value === "number" && Number.isSafeInteger(value) && value >= least) return value;
  throw new EditionFault(`its “${key}” is ${shown(value)}`);
}

/** An instant of RFC 3339. */
export const instant = /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(?:\.\d+)?Z$/;

function shown(value: unknown): string {
  return value === undefined ? "missing" : `not what it must be: ${(JSON.stringify(value) ?? "?").slice(0, 80)}`;
}

/** What a list claims to be, unverified: it only tells whether somebody was quicker, and who signed. */
export interface Claimed {
  readonly number: number | undefined;
  readonly set: string | undefined;
  readonly isSigned: boolean;
}

/** What a list claims to be; nothing of it is certain. */
export function claimedIn(list: string): Claimed {
  const none = { number: undefined, set: undefined, isSigned: false };
  if (list.length > longestList) return none;
  try {
    const { payload, signatures, signature } = JSON.parse(list) as Record<string, unknown>;
    const isSigned = signature !== undefined || (Array.isArray(signatures) && signatures.length > 0);
    const data: unknown = JSON.parse(Buffer.from(String(payload), "base64url").toString("utf8"));
    if (!isObject(data)) return { ...none, isSigned };
    const [number, set] = [own(data, "number"), own(data, "set")];
    return {
      number: Number.isSafeInteger(number) ? (number as number) : undefined,
      set: typeof set === "string" ? set : undefined,
      isSigned,
    };
  } catch {
    return none;
  }
}

/** Sizes in words. */
export function inMegabytes(bytes: number): string {
  return `${(bytes / 2 ** 20).toFixed(bytes < 100 * 2 ** 20 ? 1 : 0)} MB`;
}

/** More files than definitions, schemas and lists of a sound folder can be. */
export const maxFiles = 3 * limits.files;
