import {
  compileSchema,
  type Draft,
  draft2020,
  extendDraft,
  type JsonError,
  type Keyword,
  type SchemaNode,
} from "json-schema-library";
import type { CompiledSchema, SchemaFault, SchemaPort, SchemaProblem } from "../../model/index.ts";
import { schemaFileOf } from "../../reading/index.ts";
import type { SchemaSource } from "../../source/index.ts";
import { compilePattern, isObject, memo } from "../../values/index.ts";
import { findSchemaFault } from "./schema-keywords.ts";

/** What a schema file holds, or why it cannot be read. */
export type SchemaFile = { readonly data: unknown; readonly fault?: undefined } | { readonly fault: SchemaProblem };

/**
 * Holds values against JSON Schemas, 2020-12: those that flags hold in place, and those of files.
 *
 * @param files by path relative to the definition folder
 */
export function schemaPort(files: ReadonlyMap<string, SchemaFile> = new Map()): SchemaPort {
  return {
    compile(schema: SchemaSource): CompiledSchema {
      const file = typeof schema === "object" ? schemaFileOf(schema) : undefined;
      if (file === undefined) return compiled(schema);
      const found = files.get(file);
      if (!found) return { fault: noFile(file) };
      if (found.fault) return found;
      const result = compiled(found.data);
      return result.fault ? { fault: inFile(file, result.fault) } : result;
    },
  };
}

function noFile(file: string): SchemaProblem {
  return {
    code: "schema-invalid",
    message: `There is no schema file “${file}”.`,
    found: file,
    expected: "a path relative to the definition folder, inside it, that ends in .schema.json",
    path: ["file"],
  };
}

/** The place is in another file, so it is told in words. */
function inFile(file: string, { path = [], message, ...fault }: SchemaProblem): SchemaProblem {
  const where = path.length === 0 ? "" : ` at ${path.join("/")}`;
  return { ...fault, message: `The schema in “${file}” cannot be used${where}: ${message}`, path: ["file"] };
}

function compiled(schema: unknown): CompiledSchema {
  const fault = findSchemaFault(schema);
  if (fault) return { fault };
  if (typeof schema === "boolean")
    return { faultOf: () => (schema ? undefined : { path: [], message: "nothing is allowed here" }) };
  try {
    const { node, error } = build(schema as object);
    if (error) return { fault: problemOf(error) };
    return { faultOf: (value) => firstFault(node, value) };
  } catch (error) {
    const message = error instanceof Error ? error.message : String(error);
    return { fault: { code: "schema-invalid", message: `This schema cannot be used: ${message}.` } };
  }
}

function build(schema: object): { node: SchemaNode; error: JsonError | undefined } {
  const node = compileSchema(
    { $schema: dialect, ...(renamed(schema) as object) },
    { drafts: [linear(dialect)], formatAssertion: false },
  );
  return { node, error: node.schemaErrors?.[0] };
}

const dialect = "https://json-schema.org/draft/2020-12/schema";

function problemOf({ message, data }: JsonError): SchemaProblem {
  const path = typeof data?.pointer === "string" ? stepsOf(data.pointer) : [];
  return { code: "schema-invalid", message: `This schema cannot be used: ${message.replace(/\.$/, "")}.`, path };
}

function firstFault(node: SchemaNode, value: unknown): SchemaFault | undefined {
  try {
    const [error] = node.validate(renamed(value)).errors;
    return error && { path: stepsOf(String(error.data?.pointer ?? "")), message: wordsOf(error) };
  } catch (error) {
    return {
      path: [],
      message: error instanceof RangeError ? "the schema never comes to an end on it" : String(error),
    };
  }
}

/** A name that the library, which looks names up in plain objects, would take for their prototype. */
const prototype = "__proto__";
const inItsPlace = "\u{f8ff}proto___";

/** With another name in its place, wherever one stands: it is a name like any other. */
function renamed(data: unknown): unknown {
  if (Array.isArray(data)) return data.map(renamed);
  if (!isObject(data)) return data;
  const entries = Object.entries(data).map(([key, value]) => {
    const names = /^(?:required|dependentRequired)$/.test(key) ? renamedNames(value) : renamed(value);
    return [key === prototype ? inItsPlace : key, names];
  });
  return Object.fromEntries(entries);
}

/** Names that are required stand as texts. */
function renamedNames(data: unknown): unknown {
  if (data === prototype) return inItsPlace;
  if (Array.isArray(data)) return data.map(renamedNames);
  if (!isObject(data)) return data;
  return Object.fromEntries(
    Object.entries(data).map(([key, value]) => [key === prototype ? inItsPlace : key, renamedNames(value)]),
  );
}

/** The library's words name the place once more; that is told apart. */
function wordsOf({ message }: JsonError): string {
  return message
    .replaceAll(inItsPlace, prototype)
    .replace(/ (?:in|at) `#[^`]*`/g, "")
    .replace(/\.$/, "")
    .replace(/^[A-Z](?=[a-z])/, (c) => c.toLowerCase());
}

/** `#/lanes/0` as keys and indexes. */
function stepsOf(pointer: string): (string | number)[] {
  return pointer
    .replace(/^#?\/?/, "")
    .split("/")
    .filter((step) => step !== "")
    .map((step) => step.replace(/~1/g, "/").replace(/~0/g, "~").replace(inItsPlace, prototype))
    .map((step) => (/^(?:0|[1-9][0-9]*)$/.test(step) ? Number(step) : step));
}

/** The dialect with patterns in linear time: definitions and the values of overrides may come from somebody else. */
const linear: (dialect: string) => Draft = memo(1, () =>
  extendDraft(draft2020, {
    keywords: [withPatterns("pattern", parsePattern), withPatterns("patternProperties", parsePatternProperties)],
  }),
);

function withPatterns(name: string, parse: (node: SchemaNode) => void): Keyword {
  const keyword = draft2020.keywords.find((each) => each.keyword === name);
  if (!keyword) throw new TypeError(`the schema library has no keyword ${name}`);
  return { ...keyword, parse: (node) => void parse(node) };
}

/** The library asks a pattern for `test` and nothing else. */
function linearPattern(pattern: string): RegExp {
  return compilePattern(pattern, false) as RegExp;
}

type InnerSchema = Parameters<SchemaNode["compileSchema"]>[0];

function parsePattern(node: SchemaNode): void {
  const { pattern } = node.schema;
  if (typeof pattern === "string") node.pattern = linearPattern(pattern);
}

function parsePatternProperties(node: SchemaNode): void {
  const { patternProperties } = node.schema;
  if (typeof patternProperties !== "object" || patternProperties === null) return;
  node.patternProperties = Object.entries(patternProperties).map(([name, schema]) => ({
    name,
    pattern: linearPattern(name),
    node: node.compileSchema(
      schema as InnerSchema,
      `${node.evaluationPath}/patternProperties/${name}`,
      `${node.schemaLocation}/patternProperties/${name}`,
    ),
  }));
}
