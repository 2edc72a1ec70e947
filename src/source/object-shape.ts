import { hasOwn, nearest, sentenceList } from "../values/index.ts";
import { exchanged, isObject, type JsonSchema, refuse, type Shape, writeBraces } from "./shape.ts";
import type { Walk } from "./walk.ts";

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

interface ObjectOptions<F extends Fields> {
  readonly expected: string;
  /** Members of which exactly one stands. */
  readonly exactlyOne?: readonly string[];
  /** A closer look at an object whose members have been read; false if it cannot be used. */
  readonly isSound?: (value: ObjectType<F>, walk: Walk) => boolean;
  /** What to say of a key that belongs elsewhere. */
  readonly misplaced?: Readonly<Record<string, string>>;
}

export interface ObjectShape<F extends Fields> extends Shape<ObjectType<F>> {
  readonly fields: F;
}

export function object<F extends Fields>(fields: F, options: ObjectOptions<F>): ObjectShape<F> {
  const known = new Map(Object.entries(fields).map(([key, member]) => [key, memberOf(key, member, options)]));
  const obligatory = [...known].filter(([, member]) => member.required).map(([key]) => key);
  const choices = options.exactlyOne ? 1 : 0;
  const shape: ObjectShape<F> = {
    fields,
    expected: options.expected,
    schema: objectSchema(known, obligatory, options),
    read(value, walk) {
      if (!isObject(value)) return refuse(value, shape, walk, writeBraces(value));
      let members: Readonly<Record<string, unknown>> = value;
      let obligatoryFound = 0;
      let choicesFound = 0;
      let isWhole = true;
      // A list of the keys would be a quarter of all that reading a large set allocates.
      for (const key in value) {
        if (!hasOwn(value, key)) continue;
        const found = value[key];
        walk.path.push(key);
        const member = known.get(key);
        const read =
          member === undefined ? reportUnknownKey(key, known, options, walk) : member.shape.read(found, walk);
        if (read === undefined || read !== found) members = exchanged(members, value, key, read);
        if (member?.required) obligatoryFound++;
        if (member?.choice) choicesFound++;
        if (read === undefined && (member?.required || member?.choice)) isWhole = false;
        walk.path.pop();
      }
      if (obligatoryFound < obligatory.length) isWhole = reportMissingKeys(value, obligatory, fields, walk);
      if (choicesFound !== choices) isWhole = reportNotExactlyOne(value, options.exactlyOne!, walk);
      // Every member has been read by its own shape: this is where an object gets its type.
      const read = members as ObjectType<F>;
      const isSound = options.isSound === undefined || options.isSound(read, walk);
      return isWhole && isSound ? read : undefined;
    },
  };
  return shape;
}

/** A field as the reading wants it. */
interface Member extends Field<unknown> {
  readonly required: boolean;
  /** One of those of which exactly one stands. */
  readonly choice: boolean;
}

function memberOf(
  key: string,
  { shape, about, ...rest }: Field<unknown>,
  { exactlyOne }: { readonly exactlyOne?: readonly string[] },
): Member {
  return { shape, about, required: "required" in rest, choice: exactlyOne?.includes(key) ?? false };
}

function reportUnknownKey(
  key: string,
  known: ReadonlyMap<string, unknown>,
  { misplaced = {} }: { readonly misplaced?: Readonly<Record<string, string>> },
  walk: Walk,
): undefined {
  const near = nearest(key, known.keys());
  walk.reportKey("unknown-key", {
    message: `There is no key “${key}” here.`,
    found: key,
    expected: sentenceList([...known.keys()], "or", 12),
    help: hasOwn(misplaced, key) ? misplaced[key] : near && `did you mean “${near}”?`,
  });
}

function reportMissingKeys(value: object, wanted: readonly string[], fields: Fields, walk: Walk): false {
  for (const key of wanted) {
    if (hasOwn(value, key)) continue;
    walk.reportKey("missing-key", {
      message: `“${key}” is missing here.`,
      expected: `${key}: ${fields[key]!.shape.expected}`,
    });
  }
  return false;
}

function reportNotExactlyOne(value: object, wanted: readonly string[], walk: Walk): false {
  const found = wanted.filter((key) => hasOwn(value, key));
  walk.reportKey("not-exactly-one", {
    message: `Exactly one of ${sentenceList(wanted.map((k) => `“${k}”`))} belongs here.`,
    found: found.length === 0 ? "none of them" : sentenceList(found),
    expected: `exactly one of ${sentenceList(wanted, "or")}`,
  });
  return false;
}

function objectSchema(
  known: ReadonlyMap<string, Field<unknown>>,
  obligatory: string[],
  options: { readonly exactlyOne?: readonly string[] },
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
