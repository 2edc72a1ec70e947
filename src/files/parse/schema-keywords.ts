import type { SchemaProblem } from "../../model/index.ts";
import { didYouMean, isObject, patternFault, show } from "../../values/index.ts";

type Holds = "schema" | "schemas" | "members" | "reference" | "pattern" | "patterns" | Kind;

/** Every keyword of JSON Schema 2020-12, and what it holds, as the meta-schema of the dialect has it. */
const keywords: Readonly<Record<string, Holds>> = {
  ...each("schema", "additionalProperties contains contentSchema else if items not propertyNames then"),
  ...each("schema", "unevaluatedItems unevaluatedProperties"),
  ...each("schemas", "allOf anyOf oneOf prefixItems"),
  ...each("members", "$defs dependentSchemas properties"),
  ...each("reference", "$ref $dynamicRef"),
  ...each("pattern", "pattern"),
  ...each("patterns", "patternProperties"),
  ...each("anything", "const default"),
  ...each("type", "type"),
  ...each("list", "enum examples"),
  ...each("positive", "multipleOf"),
  ...each("number", "maximum exclusiveMaximum minimum exclusiveMinimum"),
  ...each("count", "maxLength minLength maxItems minItems maxContains minContains maxProperties minProperties"),
  ...each("yes or no", "uniqueItems deprecated readOnly writeOnly"),
  ...each("names", "required"),
  ...each("names by name", "dependentRequired"),
  ...each("text", "$schema $id $anchor $dynamicAnchor $comment title description"),
  ...each("text", "format contentEncoding contentMediaType"),
  ...each("object", "$vocabulary"),
};

function each(holds: Holds, names: string): Record<string, Holds> {
  return Object.fromEntries(names.split(" ").map((name) => [name, holds]));
}

const types = ["null", "boolean", "number", "integer", "string", "object", "array"];

const isOneOf = (value: unknown) => types.includes(value as string);
const isListOf = (value: unknown, holds: (item: unknown) => boolean) =>
  Array.isArray(value) && value.every(holds) && new Set(value).size === value.length;
const areNames = (value: unknown) => isListOf(value, (item) => typeof item === "string");

type Kind = keyof typeof kinds;

/** What holds no schema: what it takes, and in which words that is said. */
const kinds = {
  anything: { holds: () => true, expected: "any value" },
  type: {
    holds: (value: unknown) => isOneOf(value) || (isListOf(value, isOneOf) && (value as unknown[]).length > 0),
    expected: `one of ${types.join(", ")}, or a list of them`,
  },
  list: { holds: Array.isArray, expected: "a list" },
  positive: { holds: (value: unknown) => typeof value === "number" && value > 0, expected: "a number above 0" },
  number: { holds: (value: unknown) => typeof value === "number", expected: "a number" },
  count: {
    holds: (value: unknown) => Number.isInteger(value) && Number(value) >= 0,
    expected: "a whole number from 0",
  },
  "yes or no": { holds: (value: unknown) => typeof value === "boolean", expected: "true or false" },
  names: { holds: areNames, expected: "a list of names, each once" },
  "names by name": {
    holds: (value: unknown) => isObject(value) && Object.values(value).every(areNames),
    expected: "an object of lists of names",
  },
  text: { holds: (value: unknown) => typeof value === "string", expected: "a text" },
  object: { holds: isObject, expected: "an object" },
} as const;

const dialects = ["https://json-schema.org/draft/2020-12/schema", "https://json-schema.org/draft/2020-12/schema#"];

type Path = readonly (string | number)[];

/** What in a schema the format does not take: unknown keywords, references to elsewhere, patterns that are not RE2. */
export function findSchemaFault(schema: unknown, path: Path = []): SchemaProblem | undefined {
  if (typeof schema === "boolean") return undefined;
  if (!isObject(schema)) return fault(path, `${show(schema)} is not a schema.`, "an object, true or false");
  for (const [key, value] of Object.entries(schema)) {
    const found = faultOfKeyword(key, value, [...path, key]);
    if (found) return found;
  }
  return undefined;
}

function faultOfKeyword(key: string, value: unknown, path: Path): SchemaProblem | undefined {
  const holds = Object.hasOwn(keywords, key) ? keywords[key] : undefined;
  switch (holds) {
    case undefined: {
      const help = key === "definitions" ? "write $defs" : didYouMean(key, Object.keys(keywords));
      return { ...fault(path, `JSON Schema 2020-12 has no keyword “${key}”.`, "one of its keywords"), help };
    }
    case "schema":
      return findSchemaFault(value, path);
    case "schemas":
      return Array.isArray(value) && value.length > 0
        ? firstOf(value.entries(), path)
        : wrongValue(key, value, path, "a list of at least one schema");
    case "members":
      return isObject(value)
        ? firstOf(Object.entries(value), path)
        : wrongValue(key, value, path, "an object of schemas");
    case "patterns":
      return isObject(value)
        ? (Object.keys(value)
            .map((name) => faultOfPattern(name, [...path, name]))
            .find(Boolean) ?? firstOf(Object.entries(value), path))
        : wrongValue(key, value, path, "an object of schemas by pattern");
    case "pattern":
      return typeof value === "string" ? faultOfPattern(value, path) : wrongValue(key, value, path, "a text");
    case "reference":
      return typeof value === "string" && value.startsWith("#")
        ? undefined
        : fault(path, "A reference stays within the schema.", "a text that begins with #, such as #/$defs/port");
    default:
      if (!kinds[holds].holds(value)) return wrongValue(key, value, path, kinds[holds].expected);
      return key === "$schema" && !dialects.includes(String(value))
        ? fault(path, "Only JSON Schema 2020-12 is understood here.", dialects[0]!)
        : undefined;
  }
}

function wrongValue(key: string, value: unknown, path: Path, expected: string): SchemaProblem {
  return fault(path, `“${key}” of a schema takes ${expected}, and this is ${show(value)}.`, expected);
}

function firstOf(members: Iterable<[string | number, unknown]>, path: Path): SchemaProblem | undefined {
  for (const [key, schema] of members) {
    const found = findSchemaFault(schema, [...path, key]);
    if (found) return found;
  }
  return undefined;
}

function faultOfPattern(pattern: string, path: Path): SchemaProblem | undefined {
  const why = patternFault(pattern, false);
  if (why === undefined) return undefined;
  return fault(path, `This pattern cannot be read: ${why}.`, "RE2 syntax (no look-around, no back references)");
}

function fault(path: Path, message: string, expected: string): SchemaProblem {
  return { code: "schema-invalid", message, expected, path };
}
