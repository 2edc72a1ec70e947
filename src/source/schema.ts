import { definitionFile } from "./format/files.ts";
import type { JsonSchema } from "./shape.ts";
import { overridesFile, suspensionFile } from "./side-files.ts";

/**
 * The JSON Schema (2020-12) of a definition file, made from the same tables that check it. The two files beside them,
 * `suspended.yaml` and `overrides.local.yaml`, are told apart by their one key.
 */
export function definitionSchema(): JsonSchema {
  return {
    $schema: "https://json-schema.org/draft/2020-12/schema",
    $id: "https://iudex.example/schema.json",
    title: "Iudex definition file, format version 1",
    if: { required: ["suspended"] },
    // biome-ignore lint/suspicious/noThenProperty: a keyword of JSON Schema
    then: suspensionFile.schema,
    else: {
      if: { required: ["overrides"] },
      // biome-ignore lint/suspicious/noThenProperty: a keyword of JSON Schema
      then: overridesFile.schema,
      else: definitionFile.schema,
    },
  };
}
