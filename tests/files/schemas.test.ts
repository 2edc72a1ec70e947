import { loadFolder } from "iudex/tools";
import { expect, test } from "vitest";
import { folderWith } from "../support/folders.ts";

/** What is said of a set whose flag holds a value against a schema. */
async function saidOf(schema: string, safe = "{}"): Promise<string[]> {
  const text = `{ "iudex": 1, "flags": { "a": { "schema": ${schema}, "safe": ${safe} } } }`;
  const { problems } = await loadFolder(await folderWith({ "a.json": text }));
  return problems.filter(({ severity }) => severity === "error").map(({ message }) => message);
}

test.each([
  ['{ "type": null }', "“type” of a schema takes one of null, boolean, number"],
  ['{ "type": "text" }', "“type” of a schema takes one of"],
  ['{ "type": [] }', "“type” of a schema takes one of"],
  ['{ "allOf": [] }', "“allOf” of a schema takes a list of at least one schema"],
  ['{ "anyOf": {} }', "“anyOf” of a schema takes a list of at least one schema"],
  ['{ "minItems": -1 }', "“minItems” of a schema takes a whole number from 0, and this is -1."],
  ['{ "maxItems": 1.5 }', "“maxItems” of a schema takes a whole number from 0, and this is 1.5."],
  ['{ "multipleOf": 0 }', "“multipleOf” of a schema takes a number above 0, and this is 0."],
  ['{ "pattern": 5 }', "“pattern” of a schema takes a text, and this is 5."],
  ['{ "required": ["a", "a"] }', "“required” of a schema takes a list of names, each once"],
  ['{ "dependentRequired": { "a": "b" } }', "“dependentRequired” of a schema takes an object of lists of names"],
  ['{ "uniqueItems": "yes" }', "“uniqueItems” of a schema takes true or false"],
  ['{ "enum": "a" }', "“enum” of a schema takes a list"],
  ['{ "properties": { "a": { "maximum": "9" } } }', "“maximum” of a schema takes a number"],
  ['{ "patternProperties": [] }', "“patternProperties” of a schema takes an object of schemas by pattern"],
])("%s is not a schema of 2020-12", async (schema, message) => {
  expect(await saidOf(schema)).toEqual([expect.stringContaining(message)]);
});

test("what the dialect allows is taken", async () => {
  const schema = `{
    "$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Lanes", "type": ["object", "null"],
    "required": [], "dependentRequired": { "a": ["b"] }, "minProperties": 0, "multipleOf": 0.5, "deprecated": false,
    "properties": { "a": { "enum": [], "const": null }, "lanes": { "type": "integer", "minimum": -1 } }, "examples": [{}]
  }`;
  expect(await saidOf(schema, '{ "lanes": 2 }')).toEqual([]);
});

test("a property named __proto__ is one like any other", async () => {
  const schema =
    '{ "required": ["__proto__"], "properties": { "__proto__": { "type": "integer" } }, "additionalProperties": false }';
  expect(await saidOf(schema, "{}")).toEqual([expect.stringContaining("__proto__")]);
  expect(await saidOf(schema, '{ "__proto__": "x" }')).toEqual([expect.stringMatching(/integer/)]);
  expect(await saidOf(schema, '{ "__proto__": 3 }')).toEqual([]);
  expect(await saidOf('{ "additionalProperties": false }', '{ "__proto__": 3 }')).toHaveLength(1);
  expect(await saidOf('{ "properties": { "a": { "const": "__proto__" } } }', '{ "a": "__proto__" }')).toEqual([]);
});
