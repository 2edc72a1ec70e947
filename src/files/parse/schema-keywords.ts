import type { SchemaProblem } from "../../model/index.ts";
import { didYouMean, isObject, patternFault, show } from "../../values/index.ts";

type Holds = "schema" | "schemas" | "members" | "reference" | "pattern" | "patterns" | "anything";

/** Every keyword of JSON Schema 2020-12, and what it holds. */
const keywords: Readonly<Record<string, Holds>> = {
  ...each("schema", "additionalProperties contains contentSchema else if items not propertyNames then"),
  ...each("schema", "unevaluatedItems unevaluatedProperties"),
  ...each("schemas", "allOf anyOf oneOf prefixItems"),
  ...each("members", "$defs dependentSchemas properties"),
  ...each("reference", "$ref $dynamicRef"),
  ...each("pattern", "pattern"),
  ...each("patterns", "patternProperties"),
  ...each("anything", "$schema $id $anchor $dynamicAnchor $comment $vocabulary"),
  ...each("anything", "type enum const multipleOf maximum exclusiveMaximum minimum exclusiveMinimum"),
  ...each("anything", "maxLength minLength maxItems minItems uniqueItems maxContains minContains"),
  ...each("anything", "maxProperties minProperties required dependentRequired"),
  ...each("anything", "title description default deprecated readOnly writeOnly examples"),
  ...each("anything", "format contentEncoding contentMediaType"),
};

function each(holds: Holds, names: string): Record<string, Holds> {
  return Object.fromEntries(names.split(" ").map((name) => [name, holds]));
}

const dialects = ["https://json-schema.org/draft/2020-12/schema", "https://json-schema.org/draft/2020-12/schema#"];

type Path = readonly (string | number)[];

/** What in a schema the format does not take: unknown keywords, references to elsewhere, patterns that are not RE2. */
export function findSchemaFault(schema: unknown, path: Path = []): SchemaProblem | undefined {
  if (typeof schema === "boolean") return undefined;
  if (!isObject(schema)) return fault(path, `${show(schema)} is no schema.`, "an object, true or false");
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
      return Array.isArray(value) ? firstOf(value.entries(), path) : undefined;
    case "members":
      return isObject(value) ? firstOf(Object.entries(value), path) : undefined;
    case "patterns":
      return isObject(value)
        ? (Object.keys(value)
            .map((name) => faultOfPattern(name, [...path, name]))
            .find(Boolean) ?? firstOf(Object.entries(value), path))
        : undefined;
    case "pattern":
      return typeof value === "string" ? faultOfPattern(value, path) : undefined;
    case "reference":
      return typeof value === "string" && value.startsWith("#")
        ? undefined
        : fault(path, "A reference stays within the schema.", "a text that begins with #, such as #/$defs/port");
    case "anything":
      return key === "$schema" && !dialects.includes(String(value))
        ? fault(path, "Only JSON Schema 2020-12 is understood here.", dialects[0]!)
        : undefined;
  }
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
