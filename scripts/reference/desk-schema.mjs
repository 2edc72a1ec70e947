// Writes the JSON Schema of what the desk is asked and answers, from the types that it is written by.
import { join } from "node:path";
import { createGenerator } from "ts-json-schema-generator";

const root = join(import.meta.dirname, "../..");

/** @returns {string} the text of desk.schema.json */
export function deskSchema() {
  const { definitions } = createGenerator({
    path: join(root, "src/desk/protocol.ts"),
    tsconfig: join(root, "tsconfig.json"),
    type: "*",
    expose: "export",
    jsDoc: "extended",
    additionalProperties: true,
    skipTypeCheck: true,
    sortProps: false,
  }).createSchema("*");
  const text = JSON.stringify({ $defs: definitions }).replaceAll("#/definitions/", "#/$defs/");
  const schema = {
    $schema: "https://json-schema.org/draft/2020-12/schema",
    title: "What the desk of Iudex is asked, and what it answers",
    ...JSON.parse(text, inThisDraft),
  };
  return `${JSON.stringify(schema, undefined, 2)}\n`;
}

/** The tool writes an earlier draft, in which the items of a tuple have another name. */
function inThisDraft(_key, value) {
  if (!Array.isArray(value?.items)) return value;
  const { items, additionalItems, ...rest } = value;
  return { ...rest, prefixItems: items };
}
