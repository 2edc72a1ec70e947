import { definitionFile } from "./format.ts";
import type { JsonSchema } from "./shape.ts";

/** The JSON Schema (2020-12) of a definition file, made from the same tables that check it. */
export function definitionSchema(): JsonSchema {
  return {
    $schema: "https://json-schema.org/draft/2020-12/schema",
    $id: "https://iudex.example/schema.json",
    title: "Iudex definition file, format version 1",
    ...definitionFile.schema,
  };
}
