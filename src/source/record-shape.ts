import { isName, limits, nameSource, type Plain } from "../values/index.ts";
import { exchanged, isObject, type JsonSchema, notAName, refuse, type Shape, writeBraces } from "./shape.ts";
import type { Walk } from "./walk.ts";

interface RecordOptions {
  readonly what: string;
  readonly nonEmpty?: boolean;
  /** Looks at a key; names by default. False if it cannot be used. */
  readonly isKey?: (key: string, walk: Walk) => boolean;
  readonly keySchema?: JsonSchema;
}

type Members<T> = Readonly<Record<string, T>>;

export interface RecordShape<T> extends Shape<Members<T>> {
  /** Reads as `read` does, and pauses often. */
  readInSteps(value: unknown, walk: Walk): Generator<undefined, Members<T> | undefined, undefined>;
}

/** Members that are read between pauses. */
const membersAtOnce = 32;

/** An object with members of one shape, by names of their own. */
export function record<T>(member: Shape<T>, options: RecordOptions): RecordShape<T> {
  const readMembers = membersReader(member, options.isKey ?? isNameKey);
  const shape: RecordShape<T> = {
    expected: `an object of ${options.what}`,
    schema: {
      type: "object",
      propertyNames: options.keySchema ?? { pattern: nameSource, maxLength: limits.nameCharacters },
      additionalProperties: member.schema,
      ...(options.nonEmpty ? { minProperties: 1 } : {}),
    },
    read(value, walk) {
      if (!isObject(value)) return refuse(value, shape, walk, writeBraces(value));
      const keys = Object.keys(value);
      if (options.nonEmpty && keys.length === 0) {
        walk.report("empty-list", { message: `There are no ${options.what} here.`, expected: "at least one" });
        return undefined;
      }
      return readMembers(value as Members<T>, value, keys, walk);
    },
    *readInSteps(value, walk) {
      const keys = isObject(value) ? Object.keys(value) : [];
      if (!isObject(value) || keys.length <= membersAtOnce) return shape.read(value, walk);
      let members = value as Members<T>;
      for (let i = 0; i < keys.length; i += membersAtOnce) {
        members = readMembers(members, value, keys.slice(i, i + membersAtOnce), walk);
        yield;
      }
      return members;
    },
  };
  return shape;
}

/** Reads those of these keys. @returns the members as they go on to be */
type ReadMembers<T> = (all: Members<T>, source: Plain, keys: readonly string[], walk: Walk) => Members<T>;

function membersReader<T>(member: Shape<T>, isKey: (key: string, walk: Walk) => boolean): ReadMembers<T> {
  return (all, source, keys, walk) => {
    let members = all;
    for (let i = 0; i < keys.length; i++) {
      const key = keys[i]!;
      const found = source[key];
      walk.path.push(key);
      const usable = isKey(key, walk);
      const read = member.read(found, walk);
      if (!usable || read === undefined || read !== found) {
        members = exchanged(members, source, key, usable ? read : undefined);
      }
      walk.path.pop();
    }
    return members;
  };
}

function isNameKey(key: string, walk: Walk): boolean {
  if (isName(key)) return true;
  walk.reportKey("name-invalid", notAName(key));
  return false;
}
