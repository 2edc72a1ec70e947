import { type Problem, Problems } from "../problems/index.ts";
import { checkFormatVersion, overridesFile, Walk } from "../source/index.ts";
import { isObject } from "../values/index.ts";
import { Finder, type LocatedProblem, locateAll } from "./located.ts";
import { readText } from "./read-text.ts";
import type { FoundFile } from "./scan.ts";
import { locateHere, readSource } from "./text-reader.ts";

export interface LocalOverrides {
  /** Undefined when the file cannot be used. */
  readonly values: ReadonlyMap<string, unknown> | undefined;
  readonly problems: readonly LocatedProblem[];
}

/**
 * Reads `overrides.local.yaml`: a developer's own overrides, which count where the environment lets them.
 *
 * @param look a closer look at what was read, for the problems
 */
export async function readLocalOverrides(
  found: FoundFile | undefined,
  look: (values: ReadonlyMap<string, unknown>) => Iterable<Problem> = () => [],
): Promise<LocalOverrides> {
  if (!found) return { values: new Map(), problems: [] };
  const text = await readText(found.path);
  const texts = new Map([[found.file, typeof text === "string" ? text : ""]]);
  const finder = new Finder(texts);
  if (typeof text !== "string") {
    return { values: undefined, problems: [finder.fault(found.file, { ...text, range: { start: 0, end: 0 } })] };
  }
  const { data, faults } = await readSource(found.file, text);
  if (faults.length > 0) return { values: undefined, problems: faults.map((fault) => finder.fault(found.file, fault)) };
  const problems = new Problems();
  const values = readOverrides(data, found.file, problems);
  const isUsable = !problems.hasErrors;
  if (isUsable) problems.add(look(values));
  return { values: isUsable ? values : undefined, problems: await locateAll(problems.all, texts, locateHere) };
}

/** The overrides of a parsed file, held against its form; a file that holds none overrides nothing. */
export function readOverrides(data: unknown, file: string, problems: Problems): ReadonlyMap<string, unknown> {
  const walk = new Walk(problems, file);
  if (isObject(data) && !checkFormatVersion(data, file, problems)) return new Map();
  const read = overridesFile.read(data, walk);
  return new Map(Object.entries(read?.overrides ?? {}));
}
