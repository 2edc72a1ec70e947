import {
  describeKind,
  isName,
  limits,
  nameRule,
  nameSource,
  nearest,
  own,
  type Plain,
  sentenceList,
  show,
} from "../values/index.ts";
import { isPlainValue } from "./plain.ts";
import type { Walk } from "./walk.ts";

/** A JSON Schema, as data. */
export type JsonSchema = { readonly [key: string]: unknown };

/**
 * The shape of a piece of a file. One description gives three things: the typed reading, the JSON Schema for editors, and
 * the TypeScript type (`TypeOf`).
 */
export interface Shape<T> {
  /** What is expected, as a message says it: "a text", "a list of rules". */
  readonly expected: string;
  readonly schema: JsonSchema;
  /**
   * The value, looked at: the very same one where it is sound. What is not is reported; members and items that can be
   * done without are left out of a copy, and the rest goes on to the later checks. Undefined where nothing is left.
   */
  read(value: unknown, walk: Walk): T | undefined;
}

export type TypeOf<S> = S extends Shape<infer T> ? T : never;

/** Reports what is not a value of the shape at all; `null` has a message of its own. */
export function refuse(
  value: unknown,
  { expected }: { readonly expected: string },
  walk: Walk,
  help?: string,
): undefined {
  if (value === null) {
    walk.report("null-value", {
      message: "There is no value here.",
      found: "nothing (null)",
      expected,
      help: help ?? "write a value, or take the key out",
    });
    return;
  }
  walk.report("wrong-type", {
    message: `Expected ${expected}, found ${describeKind(value)}.`,
    found: show(value),
    expected,
    help,
  });
}

interface TextOptions {
  readonly expected?: string;
  readonly schema?: JsonSchema;
  /** Looks closer at a value that is a text; false if it cannot be used. */
  readonly isSound?: (text: string, walk: Walk) => boolean;
  /** What to write when the value is none. */
  readonly help?: (value: unknown) => string | undefined;
}

export function text(options: TextOptions = {}): Shape<string> {
  const shape: Shape<string> = {
    expected: options.expected ?? "a text",
    schema: { type: "string", ...options.schema },
    read(value, walk) {
      if (typeof value !== "string") return refuse(value, shape, walk, options.help?.(value));
      return options.isSound === undefined || options.isSound(value, walk) ? value : undefined;
    },
  };
  return shape;
}

export function name(what: string): Shape<string> {
  return text({
    expected: `the name of ${what}`,
    schema: { pattern: nameSource, maxLength: limits.nameCharacters },
    isSound(value, walk) {
      if (isName(value)) return true;
      walk.report("name-invalid", notAName(value));
      return false;
    },
  });
}

export function yesNo(): Shape<boolean> {
  const shape: Shape<boolean> = {
    expected: "true or false",
    schema: { type: "boolean" },
    read: (value, walk) => (typeof value === "boolean" ? value : refuse(value, shape, walk)),
  };
  return shape;
}

export function oneOf<const T extends string>(words: readonly T[]): Shape<T> {
  const expected = sentenceList(words, "or");
  const shape: Shape<T> = {
    expected,
    schema: { enum: words },
    read(value, walk) {
      const word = words.find((each) => each === value);
      if (word !== undefined) return word;
      if (typeof value !== "string") return refuse(value, shape, walk);
      const near = nearest(value, words);
      walk.report("wrong-type", {
        message: `“${value}” is not ${words.length > 1 ? "one of the words" : "the word"} expected here.`,
        found: value,
        expected,
        help: near && `did you mean “${near}”?`,
      });
      return undefined;
    },
  };
  return shape;
}

/** Anything but `null`: a value that a flag gives. */
export function anyValue(): Shape<unknown> {
  const shape: Shape<unknown> = {
    expected: "a value",
    schema: { not: { type: "null" } },
    read(value, walk) {
      if (value === null || value === undefined) return refuse(value, shape, walk);
      return isPlainValue(value, walk) ? value : undefined;
    },
  };
  return shape;
}

export type ContextSource = Readonly<Record<string, unknown>>;

/** Data without `null` at any depth: a context. */
export function anyContext(): Shape<ContextSource> {
  const shape: Shape<ContextSource> = {
    expected: "an object of attributes",
    schema: { type: "object" },
    read(value, walk) {
      if (!isObject(value)) return refuse(value, shape, walk);
      return isPlainValue(value, walk) && !reportNulls(value, walk) ? value : undefined;
    },
  };
  return shape;
}

/** True if there are any. */
function reportNulls(value: unknown, walk: Walk): boolean {
  if (value === null) {
    refuse(value, { expected: "a value" }, walk, "leave the attribute out if it is missing");
    return true;
  }
  if (typeof value !== "object") return false;
  let found = false;
  for (const key of Object.keys(value)) {
    walk.path.push(Array.isArray(value) ? Number(key) : key);
    found = reportNulls(own(value, key), walk) || found;
    walk.path.pop();
  }
  return found;
}

export function isObject(value: unknown): value is Plain {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

/** A list whose first items are sound is read as far as they go, so that the items keep their numbers. */
export function listOf<T>(
  item: Shape<T>,
  options: { readonly what: string; readonly nonEmpty?: boolean },
): Shape<readonly T[]> {
  const shape: Shape<readonly T[]> = {
    expected: `a list of ${options.what}`,
    schema: { type: "array", items: item.schema, ...(options.nonEmpty ? { minItems: 1 } : {}) },
    read(value, walk) {
      if (!Array.isArray(value)) return refuse(value, shape, walk);
      if (options.nonEmpty && value.length === 0) {
        walk.report("empty-list", { message: `This list of ${options.what} is empty.`, expected: "at least one" });
        return undefined;
      }
      let copy: T[] | undefined;
      let isCut = false;
      for (let i = 0; i < value.length; i++) {
        walk.path.push(i);
        const read = item.read(value[i], walk);
        walk.path.pop();
        if (read !== value[i]) copy ??= value.slice(0, i);
        isCut ||= read === undefined;
        if (copy !== undefined && read !== undefined && !isCut) copy.push(read);
      }
      return copy ?? value;
    },
  };
  return shape;
}

export function writeBraces(value: unknown): string | undefined {
  return value === null ? "write {} or take the key out" : undefined;
}

/** The members with another value for one of them, or without it: in a copy, the first time. */
export function exchanged<T>(
  members: Readonly<Record<string, T>>,
  source: Plain,
  key: string,
  read: T | undefined,
): Readonly<Record<string, T>> {
  const copy: Record<string, T> = members === source ? { ...members } : members;
  if (read === undefined) delete copy[key];
  else copy[key] = read;
  return copy;
}

export function notAName(found: string): { message: string; found: string; expected: string } {
  return { message: `“${show(found).slice(1, -1)}” cannot be a name.`, found, expected: nameRule };
}

type Kind = "text" | "list" | "object" | "yes-no";

function kindOf(value: unknown): Kind | undefined {
  if (typeof value === "string") return "text";
  if (typeof value === "boolean") return "yes-no";
  if (Array.isArray(value)) return "list";
  return isObject(value) ? "object" : undefined;
}

/** Shapes told apart by the kind of the value. */
export function byKind<T>(shapes: Partial<Record<Kind, Shape<T>>>, options: TextOptions = {}): Shape<T> {
  const present = Object.values(shapes);
  const shape: Shape<T> = {
    expected:
      options.expected ??
      sentenceList(
        present.map((s) => s.expected),
        "or",
      ),
    schema: { anyOf: present.map((s) => s.schema) },
    read(value, walk) {
      const kind = kindOf(value);
      const chosen = kind === undefined ? undefined : shapes[kind];
      return chosen ? chosen.read(value, walk) : refuse(value, shape, walk, options.help?.(value));
    },
  };
  return shape;
}
