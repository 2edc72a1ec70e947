import type { SchemaProblem } from "../model/index.ts";
import { limits } from "../values/index.ts";
import { type FileName, isSchemaFile } from "./file-name.ts";
import type { Entry, Files } from "./files.ts";
import { findEntry, isSame } from "./lists.ts";
import type { SchemaFile } from "./parse/json-schemas.ts";
import { readSource } from "./parse/text-reader.ts";
import { decodeText } from "./read-text.ts";

/** A schema file that has been read, with what tells whether it must be read again. */
export interface LoadedSchema {
  readonly schema: SchemaFile;
  /** Undefined if the file does not exist. */
  readonly name?: FileName;
  readonly entry?: Entry;
  /** Reading failed for a reason that may pass: it is tried again at every look. */
  readonly failed?: boolean;
}

/** Reads a schema file that a flag names; it lies inside the folder, and its name ends in `.schema.json`. */
export async function loadSchema(files: Files, file: string, before?: LoadedSchema): Promise<LoadedSchema> {
  const found = findEntry(files, file);
  if (found === undefined) return { schema: refused(file, whyNot(file)) };
  if ("code" in found)
    return {
      schema: refused(file, found.code === "outside-folder" ? "it leads out of the definition folder" : found.message),
    };
  const { name, entry } = found;
  if (!isSchemaFile(name)) return { schema: refused(file, whyNot(file)), name, entry };
  if (entry.size > limits.fileBytes)
    return { schema: refused(file, `it is larger than ${limits.fileBytes / 2 ** 20} MB`), name, entry };
  if (before && !before.failed && isSame(before.entry, entry)) return { ...before, entry };
  try {
    const text = decodeText(await entry.bytes());
    if (text === undefined) return { schema: refused(file, "it is not UTF-8 text"), name, entry };
    const { data, faults } = await readSource(file, text);
    return { schema: faults[0] ? refused(file, faults[0].message) : { data }, name, entry };
  } catch (error) {
    return { schema: refused(file, (error as Error).message), name, entry, failed: true };
  }
}

function whyNot(file: string): string {
  return isSchemaFile(file) ? "there is no such file" : "its name does not end in .schema.json";
}

function refused(file: string, why: string): SchemaFile {
  const fault: SchemaProblem = {
    code: "schema-invalid",
    message: `The schema file “${file}” cannot be used: ${why.replace(/\.$/, "")}.`,
    found: file,
    expected: "a path inside the definition folder, relative to its top, that ends in .schema.json",
    path: ["file"],
  };
  return { fault };
}
