import { posix } from "node:path";
import type { Fault } from "../problems/index.ts";

declare const brand: unique symbol;

/** Where something is in a definition folder: normalised, with forward slashes, never leading out. Only `fileName` makes one. */
export type FileName = string & { readonly [brand]: true };

export const suspendedFile = "suspended.yaml" as FileName;
export const localOverridesFile = "overrides.local.yaml" as FileName;

/** The name of a file in one spelling: `./lists//crew.csv` is `lists/crew.csv`. What cannot be one is a fault. */
export function fileName(written: string): FileName | Fault {
  if (/^(?:[/\\]|[A-Za-z]:)/.test(written) || written.split(/[\\/]/).includes("..")) return outside(written);
  if (written.includes("\\")) return unusable(written, "has a backslash", `write ${written.replaceAll("\\", "/")}`);
  if (written.includes("\0")) return unusable(written, "holds a null character");
  const name = posix.normalize(written).normalize("NFC");
  return name === "." || name.endsWith("/") ? unusable(written, "does not name a file") : (name as FileName);
}

/** As {@link fileName}, for names that are known to be good. @throws for one that is not */
export function requireFileName(written: string): FileName {
  const name = fileName(written);
  if (typeof name !== "string") throw new Error(name.message);
  return name;
}

export function outside(file: string): Fault {
  return {
    code: "outside-folder",
    message: `“${file}” leads out of the definition folder.`,
    found: file,
    expected: "a path inside the folder, relative to its top",
  };
}

function unusable(file: string, why: string, help?: string): Fault {
  return {
    code: "file-name",
    message: `“${file}” ${why}.`,
    found: file,
    expected: "a path inside the folder, with forward slashes",
    help,
  };
}

/** Two names that are one on some machine: where case or the form of accents does not count. */
export function twinKey(name: FileName): string {
  return name.toLowerCase();
}

export function twins(one: string, other: string): Fault {
  return {
    code: "file-name",
    message: `“${other}” differs from “${one}” only by case or by how its accents are written.`,
    found: other,
    expected: "names that differ on every machine",
    help: "rename one of them",
  };
}

export function isDefinitionFile(path: string): boolean {
  return /\.(?:yaml|yml|json)$/.test(path) && path.split("/").every(isWanted) && !isSchemaFile(path);
}

export function isSchemaFile(path: string): boolean {
  return path.endsWith(".schema.json");
}

export function isListFile(path: string): boolean {
  return /\.(?:csv|txt)$/.test(path);
}

/** Files that a set may be made of. */
export function mayBelong(name: string): boolean {
  return /\.(?:yaml|yml|json|csv|txt)$/.test(name);
}

/** Hidden names are skipped, and those that editors leave. */
export function isWanted(name: string): boolean {
  return !name.startsWith(".") && !name.endsWith("~");
}
