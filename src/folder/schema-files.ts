import { realpath, stat } from "node:fs/promises";
import { isAbsolute, resolve, sep } from "node:path";
import type { SchemaProblem } from "../model/index.ts";
import { limits } from "../values/index.ts";
import type { SchemaFile } from "./json-schemas.ts";
import { readText } from "./read-text.ts";
import { readSource } from "./text-reader.ts";

/** Reads the schema files that flags name; they lie inside the folder, and their names end in `.schema.json`. */
export async function loadSchemas(
  root: string | undefined,
  files: Iterable<string>,
): Promise<ReadonlyMap<string, SchemaFile>> {
  const schemas = new Map<string, SchemaFile>();
  if (root === undefined) return schemas;
  for (const file of files) if (!schemas.has(file)) schemas.set(file, await loadSchema(root, file));
  return schemas;
}

/** What is wrong with the path of a schema, before it is looked for. */
function faultOfPath(file: string): SchemaFile | undefined {
  if (isAbsolute(file) || file.split(/[\\/]/).includes("..")) return outside(file);
  if (!file.endsWith(".schema.json")) return refused(file, "its name does not end in .schema.json");
  return undefined;
}

/** Reads one schema of those that stand at known paths, by their names. */
export async function storedSchema(file: string, path: string | undefined): Promise<SchemaFile> {
  return faultOfPath(file) ?? (path === undefined ? refused(file, "there is no such file") : readSchema(file, path));
}

async function loadSchema(root: string, file: string): Promise<SchemaFile> {
  const fault = faultOfPath(file);
  if (fault) return fault;
  const path = await realpath(resolve(root, file)).catch(() => undefined);
  if (path === undefined) return refused(file, "there is no such file");
  if (!path.startsWith(root + sep)) return outside(file);
  const found = await stat(path).catch(() => undefined);
  if (!found?.isFile()) return refused(file, "it is no regular file");
  if (found.size > limits.fileBytes) return refused(file, `it is larger than ${limits.fileBytes / 2 ** 20} MB`);
  return readSchema(file, path);
}

async function readSchema(file: string, path: string): Promise<SchemaFile> {
  const text = await readText(path);
  if (typeof text !== "string") return refused(file, text.message);
  const { data, faults } = await readSource(file, text);
  return faults[0] ? refused(file, faults[0].message) : { data };
}

function outside(file: string): SchemaFile {
  return refused(file, "it leads out of the definition folder");
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
