import type { StandardSchemaV1 } from "./standard-schema.ts";

/** One flag as a program uses it: its type, and the value that the program falls back on. */
export interface CatalogueEntry<Value> {
  readonly kind: "yes-no" | "number" | "text" | "data";
  readonly fallback: Value;
  /** The texts that a text flag may give; any text if left out. */
  readonly texts?: readonly string[];
  /** Checks, and may convert, a data value. */
  readonly schema?: StandardSchemaV1<unknown, Value>;
}

/** The entries of a catalogue, by the names of flags. */
export type CatalogueEntries = Readonly<Record<string, CatalogueEntry<unknown>>>;

/** The flags that one program uses, in code. */
export interface Catalogue<Entries extends CatalogueEntries = CatalogueEntries> {
  readonly entries: Entries;
}

/** The names of a catalogue, or any text where there is none. */
export type NameOf<C> = C extends Catalogue<infer Entries> ? keyof Entries & string : string;

/** The names of a catalogue's yes-no flags, or any text if there is no catalogue. */
export type YesNoNameOf<C> =
  C extends Catalogue<infer Entries>
    ? { [Name in keyof Entries & string]: Entries[Name] extends CatalogueEntry<boolean> ? Name : never }[keyof Entries &
        string]
    : string;

/** The type of a flag's value: literal where the catalogue says so, undefined being possible only without one. */
export type ValueOf<C, Name> =
  C extends Catalogue<infer Entries>
    ? Name extends keyof Entries
      ? Entries[Name] extends CatalogueEntry<infer Value>
        ? Value
        : never
      : never
    : FlagValue | undefined;

/** What a flag can give: a yes-no, a number, a text, or data. */
export type FlagValue = boolean | number | string | object;

/**
 * Names the flags that a program uses, with type and fallback.
 *
 * @example
 * export const catalogue = defineCatalogue({
 *   "storm-mode": yesNo({ fallback: false }),
 *   "seat-map": text(["list", "deck-plan"], { fallback: "list" }),
 * });
 */
export function defineCatalogue<const Entries extends CatalogueEntries>(entries: Entries): Catalogue<Entries> {
  return Object.freeze({ entries: Object.freeze({ ...entries }) });
}

/**
 * A flag that gives true or false.
 *
 * @example "storm-mode": yesNo({ fallback: false })
 */
export function yesNo(options: { readonly fallback: boolean }): CatalogueEntry<boolean> {
  return { kind: "yes-no", fallback: options.fallback };
}

/**
 * A flag that gives numbers.
 *
 * @example "hold-minutes": number({ fallback: 15 })
 */
export function number(options: { readonly fallback: number }): CatalogueEntry<number> {
  return { kind: "number", fallback: options.fallback };
}

/** A text: one of those listed, or any where none are. */
export function text(options: { readonly fallback: string }): CatalogueEntry<string>;
export function text<const Text extends string>(
  texts: readonly Text[],
  options: { readonly fallback: NoInfer<Text> },
): CatalogueEntry<Text>;
export function text(
  first: readonly string[] | { readonly fallback: string },
  second?: { readonly fallback: string },
): CatalogueEntry<string> {
  if (isOptions(first)) return { kind: "text", fallback: first.fallback };
  return { kind: "text", fallback: second!.fallback, texts: first };
}

function isOptions(first: readonly string[] | { readonly fallback: string }): first is { readonly fallback: string } {
  return !Array.isArray(first);
}

/**
 * A list or object, checked by a schema of any library that implements the Standard Schema interface. What the schema
 * makes of a value is what the program gets. It must answer at once: asynchronous schemas are refused. Without a schema,
 * as in a catalogue that a page imports, any list or object will do.
 *
 * @example "check-in": data(z.object({ lanes: z.number() }), { fallback: { lanes: 1 } })
 */
export function data<Schema extends StandardSchemaV1>(
  schema: Schema,
  options: { readonly fallback: NoInfer<StandardSchemaV1.InferOutput<Schema>> },
): CatalogueEntry<StandardSchemaV1.InferOutput<Schema>>;
export function data<Value extends object>(options: { readonly fallback: Value }): CatalogueEntry<Value>;
export function data(
  first: StandardSchemaV1 | { readonly fallback: unknown },
  second?: { readonly fallback: unknown },
): CatalogueEntry<unknown> {
  if (second === undefined) return { kind: "data", fallback: (first as { readonly fallback: unknown }).fallback };
  return { kind: "data", fallback: second.fallback, schema: first as StandardSchemaV1 };
}
