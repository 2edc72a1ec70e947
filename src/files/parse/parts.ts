import { serialiser } from "./lazy-csv.ts";
import type { FileFault, ParsedText } from "./parsed-file.ts";

/** A text that was read, in parts that each take about a millisecond to be taken over from another thread. */
export interface PartedText {
  readonly faults: readonly FileFault[];
  /** Serialised by the platform, the outermost first. */
  readonly parts: readonly Uint8Array<ArrayBuffer>[];
}

/** What belongs into one object, list or map of the whole. */
interface Part {
  /** Where it stands, from the root of `ParsedText`. */
  readonly path: readonly Key[];
  readonly members: readonly (readonly [Key, unknown])[];
}

type Key = string | number;

/** About as many values go into one part. */
const maxValues = 2_000;

/** Takes apart what was read, on the thread that has read it. */
export function inParts({ data, spellings, faults }: ParsedText): PartedText {
  const { serialize } = serialiser();
  const parts: Uint8Array<ArrayBuffer>[] = [];
  const take = (path: readonly Key[], members: Part["members"]) => {
    if (members.length === 0) return;
    const { buffer, byteOffset, length } = serialize({ path, members } satisfies Part);
    parts.push(new Uint8Array(buffer as ArrayBuffer, byteOffset, length));
  };
  divide(
    [],
    [
      ["data", data],
      ["spellings", spellings],
    ],
    take,
  );
  return { faults, parts };
}

/** Hands on the members of one container as parts, and those that are too large for one after an empty one of theirs. */
function divide(
  path: readonly Key[],
  members: Iterable<readonly [Key, unknown]>,
  take: (path: readonly Key[], members: Part["members"]) => void,
): void {
  let part: (readonly [Key, unknown])[] = [];
  let room = maxValues;
  for (const [key, value] of members) {
    const size = sizeOf(value);
    if (size > room) {
      take(path, part);
      part = [];
      room = maxValues;
    }
    if (size <= room) {
      part.push([key, value]);
      room -= size;
    } else {
      take(path, [[key, emptySet(value)]]);
      divide([...path, key], membersOf(value), take);
    }
  }
  take(path, part);
}

/** How many values there are in all. */
function sizeOf(value: unknown): number {
  let size = 1;
  for (const [, member] of membersOf(value)) size += sizeOf(member);
  return size;
}

function membersOf(value: unknown): Iterable<readonly [Key, unknown]> {
  if (typeof value !== "object" || value === null) return [];
  if (Array.isArray(value)) return value.entries();
  return value instanceof Map ? value : Object.entries(value);
}

function emptySet(value: unknown): unknown {
  return Array.isArray(value) ? [] : value instanceof Map ? new Map() : {};
}

/** Puts together what was taken apart, with pauses. */
export function* fromParts({ faults, parts }: PartedText): Generator<undefined, ParsedText, undefined> {
  const { deserialize } = serialiser();
  const whole = { data: undefined as unknown, spellings: new Map<string, string>(), faults };
  for (const each of parts) {
    const { path, members } = deserialize(each) as Part;
    put(at(whole, path), members);
    yield;
  }
  return whole;
}

function at(whole: unknown, path: readonly Key[]): unknown {
  return path.reduce((inner, key) => (inner as Readonly<Record<Key, unknown>>)[key], whole);
}

function put(container: unknown, members: Part["members"]): void {
  if (container instanceof Map) for (const [key, value] of members) container.set(key, value);
  else if (Array.isArray(container)) for (const [, value] of members) container.push(value);
  else for (const [key, value] of members) define(container as object, key, value);
}

/** As it stood in the text, a key that would change the prototype if it were assigned included. */
function define(object: object, key: Key, value: unknown): void {
  if (key !== "__proto__") (object as Record<Key, unknown>)[key] = value;
  else Object.defineProperty(object, key, { value, enumerable: true, configurable: true, writable: true });
}
