import { describeKind, hasOwn, own, type Plain, show } from "../values/data.ts";
import { limits } from "../values/limits.ts";
import { isName, nameRule, nameSource, nearest, sentenceList } from "../values/names.ts";
import { isPlainValue } from "./plain.ts";
import type { Walk } from "./walk.ts";

export type JsonSchema = { readonly [key: string]: unknown };

/**
 * The shape of a piece of a file. One description gives three things: the check while reading, the JSON Schema for
 * editors, and the TypeScript type (`TypeOf`).
 */
export interface Shape<T> {
  /** What is expected, as a message says it: "a text", "a list of rules". */
  readonly expected: string;
  readonly schema: JsonSchema;
  check(value: unknown, walk: Walk): void;
  /** Only there to carry the type. */
  readonly type?: T;
}

export type TypeOf<S> = S extends Shape<infer T> ? T : never;

/** Reports what is no value of the shape at all; `null` has a message of its own. */
function refuse(value: unknown, shape: { readonly expected: string }, walk: Walk, help?: string): void {
  if (value === null) {
    walk.report("null-value", {
      message: "There is no value here.",
      found: "nothing (null)",
      expected: shape.expected,
      help: help ?? "write a value, or take the key out",
    });
    return;
  }
  walk.report("wrong-type", {
    message: `Expected ${shape.expected}, found ${describeKind(value)}.`,
    found: show(value),
    expected: shape.expected,
    help,
  });
}

interface TextOptions {
  readonly expected?: string;
  readonly schema?: JsonSchema;
  /** Looks closer at a value that is a text. */
  readonly refine?: (text: string, walk: Walk) => void;
  /** What to write when the value is none. */
  readonly help?: (value: unknown) => string | undefined;
}

export function text(options: TextOptions = {}): Shape<string> {
  const shape = {
    expected: options.expected ?? "a text",
    schema: { type: "string", ...options.schema },
    check(value: unknown, walk: Walk) {
      if (typeof value === "string") options.refine?.(value, walk);
      else refuse(value, shape, walk, options.help?.(value));
    },
  };
  return shape;
}

export function name(what: string): Shape<string> {
  return text({
    expected: `the name of ${what}`,
    schema: { pattern: nameSource, maxLength: limits.nameCharacters },
    refine(value, walk) {
      if (!isName(value)) walk.report("name-invalid", notAName(value));
    },
  });
}

export function yesNo(): Shape<boolean> {
  const shape = {
    expected: "true or false",
    schema: { type: "boolean" },
    check(value: unknown, walk: Walk) {
      if (typeof value !== "boolean") refuse(value, shape, walk);
    },
  };
  return shape;
}

export function oneOf<const T extends string>(words: readonly T[]): Shape<T> {
  const expected = sentenceList(words, "or");
  const shape = {
    expected,
    schema: { enum: words },
    check(value: unknown, walk: Walk) {
      if (typeof value !== "string") return refuse(value, shape, walk);
      if ((words as readonly string[]).includes(value)) return;
      const near = nearest(value, words);
      walk.report("wrong-type", {
        message: `“${value}” is not ${words.length > 1 ? "one of the words" : "the word"} expected here.`,
        found: value,
        expected,
        help: near && `did you mean “${near}”?`,
      });
    },
  };
  return shape;
}

/** Anything but `null`: a value that a flag gives. */
export function anyValue(): Shape<unknown> {
  const shape = {
    expected: "a value",
    schema: { not: { type: "null" } },
    check(value: unknown, walk: Walk) {
      if (value === null || value === undefined) refuse(value, shape, walk);
      else isPlainValue(value, walk);
    },
  };
  return shape;
}

/** Data without `null` at any depth: a context. */
export function anyContext(): Shape<Readonly<Record<string, unknown>>> {
  const shape = {
    expected: "an object of attributes",
    schema: { type: "object" },
    check(value: unknown, walk: Walk) {
      if (typeof value !== "object" || value === null || Array.isArray(value)) return refuse(value, shape, walk);
      if (isPlainValue(value, walk)) refuseNulls(value, walk);
    },
  };
  return shape;
}

function refuseNulls(value: unknown, walk: Walk): void {
  if (value === null) return refuse(value, { expected: "a value" }, walk, "leave the attribute out if it is missing");
  if (typeof value !== "object") return;
  for (const key of Object.keys(value as object)) {
    walk.inside(Array.isArray(value) ? Number(key) : key, () => refuseNulls(own(value as object, key), walk));
  }
}

export function listOf<T>(
  item: Shape<T>,
  options: { readonly what: string; readonly nonEmpty?: boolean },
): Shape<readonly T[]> {
  const shape = {
    expected: `a list of ${options.what}`,
    schema: { type: "array", items: item.schema, ...(options.nonEmpty ? { minItems: 1 } : {}) },
    check(value: unknown, walk: Walk) {
      if (!Array.isArray(value)) return refuse(value, shape, walk);
      if (options.nonEmpty && value.length === 0) {
        walk.report("empty-list", { message: `This list of ${options.what} is empty.`, expected: "at least one" });
      }
      for (let i = 0; i < value.length; i++) {
        walk.path.push(i);
        item.check(value[i], walk);
        walk.path.pop();
      }
    },
  };
  return shape;
}

interface RecordOptions {
  readonly what: string;
  readonly nonEmpty?: boolean;
  /** Checks a key; names by default. */
  readonly checkKey?: (key: string, walk: Walk) => void;
  readonly keySchema?: JsonSchema;
}

export function record<T>(member: Shape<T>, options: RecordOptions): Shape<Readonly<Record<string, T>>> {
  const checkKey = options.checkKey ?? checkName;
  const shape = {
    expected: `an object of ${options.what}`,
    schema: {
      type: "object",
      propertyNames: options.keySchema ?? { pattern: nameSource, maxLength: limits.nameCharacters },
      additionalProperties: member.schema,
      ...(options.nonEmpty ? { minProperties: 1 } : {}),
    },
    check(value: unknown, walk: Walk) {
      if (typeof value !== "object" || value === null || Array.isArray(value)) {
        return refuse(value, shape, walk, value === null ? "write {} or take the key out" : undefined);
      }
      const keys = Object.keys(value);
      if (options.nonEmpty && keys.length === 0) {
        walk.report("empty-list", { message: `There are no ${options.what} here.`, expected: "at least one" });
      }
      for (let i = 0; i < keys.length; i++) {
        const key = keys[i]!;
        walk.path.push(key);
        checkKey(key, walk);
        member.check((value as Plain)[key], walk);
        walk.path.pop();
      }
    },
  };
  return shape;
}

function checkName(key: string, walk: Walk): void {
  if (isName(key)) return;
  walk.reportKey("name-invalid", notAName(key));
}

function notAName(found: string): { message: string; found: string; expected: string } {
  return { message: `“${show(found).slice(1, -1)}” cannot be a name.`, found, expected: nameRule };
}

export interface Field<T> {
  readonly shape: Shape<T>;
  readonly about: string;
}

export interface RequiredField<T> extends Field<T> {
  readonly required: true;
}

export function field<T>(shape: Shape<T>, about: string): Field<T> {
  return { shape, about };
}

export function required<T>(shape: Shape<T>, about: string): RequiredField<T> {
  return { shape, about, required: true };
}

type Fields = Readonly<Record<string, Field<unknown>>>;

type ObjectType<F extends Fields> = {
  readonly [K in keyof F as F[K] extends RequiredField<unknown> ? K : never]: F[K] extends Field<infer T> ? T : never;
} & {
  readonly [K in keyof F as F[K] extends RequiredField<unknown> ? never : K]?: F[K] extends Field<infer T> ? T : never;
};

interface ObjectOptions {
  readonly expected: string;
  /** Members of which exactly one stands. */
  readonly exactlyOne?: readonly string[];
  /** A closer look at an object whose members have been checked. */
  readonly refine?: (value: Readonly<Record<string, unknown>>, walk: Walk) => void;
}

export interface ObjectShape<F extends Fields> extends Shape<ObjectType<F>> {
  readonly fields: F;
}

export function object<F extends Fields>(fields: F, options: ObjectOptions): ObjectShape<F> {
  const known = new Map(Object.entries(fields).map(([key, member]) => [key, memberOf(key, member, options)]));
  const obligatory = [...known].filter(([, member]) => member.required).map(([key]) => key);
  const choices = options.exactlyOne ? 1 : 0;
  const shape = {
    fields,
    expected: options.expected,
    schema: objectSchema(known, obligatory, options),
    check(value: unknown, walk: Walk) {
      if (typeof value !== "object" || value === null || Array.isArray(value)) {
        return refuse(value, shape, walk, value === null ? "write {} or take the key out" : undefined);
      }
      let obligatoryFound = 0;
      let choicesFound = 0;
      // A list of the keys would be a quarter of all that reading a large set allocates.
      for (const key in value) {
        if (!hasOwn(value, key)) continue;
        walk.path.push(key);
        const member = known.get(key);
        if (member === undefined) reportUnknownKey(key, known, walk);
        else {
          member.shape.check((value as Plain)[key], walk);
          if (member.required) obligatoryFound++;
          if (member.choice) choicesFound++;
        }
        walk.path.pop();
      }
      if (obligatoryFound < obligatory.length) reportMissingKeys(value, obligatory, fields, walk);
      if (choicesFound !== choices) reportNotExactlyOne(value, options.exactlyOne!, walk);
      options.refine?.(value as Record<string, unknown>, walk);
    },
  };
  return shape;
}

/** A field as the check wants it. */
interface Member extends Field<unknown> {
  readonly required: boolean;
  /** One of those of which exactly one stands. */
  readonly choice: boolean;
}

function memberOf(key: string, { shape, about, ...rest }: Field<unknown>, { exactlyOne }: ObjectOptions): Member {
  return { shape, about, required: "required" in rest, choice: exactlyOne?.includes(key) ?? false };
}

function reportUnknownKey(key: string, known: ReadonlyMap<string, unknown>, walk: Walk): void {
  const near = nearest(key, known.keys());
  walk.reportKey("unknown-key", {
    message: `There is no key “${key}” here.`,
    found: key,
    expected: sentenceList([...known.keys()], "or", 12),
    help: near && `did you mean “${near}”?`,
  });
}

function reportMissingKeys(value: object, wanted: readonly string[], fields: Fields, walk: Walk): void {
  for (const key of wanted) {
    if (hasOwn(value, key)) continue;
    walk.reportKey("missing-key", {
      message: `“${key}” is missing here.`,
      expected: `${key}: ${fields[key]!.shape.expected}`,
    });
  }
}

function reportNotExactlyOne(value: object, wanted: readonly string[], walk: Walk): void {
  const found = wanted.filter((key) => hasOwn(value, key));
  walk.reportKey("not-exactly-one", {
    message: `Exactly one of ${sentenceList(wanted.map((k) => `“${k}”`))} belongs here.`,
    found: found.length === 0 ? "none of them" : sentenceList(found),
    expected: `exactly one of ${sentenceList(wanted, "or")}`,
  });
}

function objectSchema(
  known: ReadonlyMap<string, Field<unknown>>,
  obligatory: string[],
  options: ObjectOptions,
): JsonSchema {
  const properties: Record<string, JsonSchema> = {};
  for (const [key, { shape, about }] of known) properties[key] = { description: about, ...shape.schema };
  return {
    type: "object",
    properties,
    additionalProperties: false,
    ...(obligatory.length ? { required: obligatory } : {}),
    ...(options.exactlyOne ? { oneOf: options.exactlyOne.map((key) => ({ required: [key] })) } : {}),
  };
}

type Kind = "text" | "list" | "object";

/** Shapes told apart by the kind of the value. */
export function byKind<T>(shapes: Partial<Record<Kind, Shape<T>>>, options: TextOptions = {}): Shape<T> {
  const present = Object.values(shapes);
  const shape = {
    expected:
      options.expected ??
      sentenceList(
        present.map((s) => s.expected),
        "or",
      ),
    schema: { anyOf: present.map((s) => s.schema) },
    check(value: unknown, walk: Walk) {
      const kind = typeof value === "string" ? "text" : Array.isArray(value) ? "list" : typeof value;
      const chosen = value === null ? undefined : shapes[kind as Kind];
      if (chosen) chosen.check(value, walk);
      else refuse(value, shape, walk, options.help?.(value));
    },
  };
  return shape;
}
