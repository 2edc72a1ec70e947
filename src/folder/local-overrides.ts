import { Problems } from "../problems/problem.ts";
import { checkFormatVersion } from "../source/read-file.ts";
import { anyValue, field, object, record, required } from "../source/shape.ts";
import { Walk } from "../source/walk.ts";
import { isObject } from "../values/data.ts";
import { Finder, type LocatedProblem } from "./located.ts";
import { parseText } from "./parse.ts";
import { readText } from "./read-text.ts";
import type { FoundFile } from "./scan.ts";

export const overridesFile = object(
  {
    iudex: required({ expected: "1", schema: { const: 1 }, read: () => 1 }, "The version of the format"),
    overrides: field(record(anyValue(), { what: "overrides" }), "Flag → value, or the name of a variant"),
  },
  { expected: "an object with “iudex” and “overrides”" },
);

export interface LocalOverrides {
  /** Undefined when the file cannot be used. */
  readonly values: ReadonlyMap<string, unknown> | undefined;
  readonly problems: readonly LocatedProblem[];
}

/** Reads `overrides.local.yaml`: a developer's own overrides, which count where the environment lets them. */
export async function readLocalOverrides(found: FoundFile | undefined): Promise<LocalOverrides> {
  if (!found) return { values: new Map(), problems: [] };
  const text = await readText(found.path);
  const finder = new Finder(new Map([[found.file, typeof text === "string" ? text : ""]]));
  if (typeof text !== "string") {
    return { values: undefined, problems: [finder.fault(found.file, { ...text, range: { start: 0, end: 0 } })] };
  }
  const { data, faults } = parseText(found.file, text);
  if (faults.length > 0) return { values: undefined, problems: faults.map((fault) => finder.fault(found.file, fault)) };
  const problems = new Problems();
  const values = readOverrides(data, found.file, problems);
  return { values: problems.hasErrors ? undefined : values, problems: problems.all.map((p) => finder.problem(p)) };
}

/** The overrides of a parsed file, held against its form; a file that holds none overrides nothing. */
export function readOverrides(data: unknown, file: string, problems: Problems): ReadonlyMap<string, unknown> {
  const walk = new Walk(problems, file);
  if (isObject(data) && !checkFormatVersion(data, file, problems)) return new Map();
  const read = overridesFile.read(data, walk);
  return new Map(Object.entries(read?.overrides ?? {}));
}
