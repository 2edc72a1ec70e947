import { type Problem, Problems } from "../problems/index.ts";
import { checkFormatVersion, overridesFile, Walk } from "../source/index.ts";
import { isObject } from "../values/index.ts";
import { localOverridesFile } from "./file-name.ts";
import type { Entry } from "./files.ts";
import type { FileFault } from "./parse/parsed-file.ts";
import { locateHere, readSource } from "./parse/text-reader.ts";
import { Finder, type LocatedProblem, locateAll } from "./places/located.ts";
import { decodeText } from "./read-text.ts";
import { reasonOf } from "./reason.ts";

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
  entry: Entry | undefined,
  look: (values: ReadonlyMap<string, unknown>) => Iterable<Problem> = () => [],
): Promise<LocalOverrides> {
  if (!entry) return { values: new Map(), problems: [] };
  const file = localOverridesFile;
  const text = await textOf(entry);
  const texts = new Map<string, string>([[file, typeof text === "string" ? text : ""]]);
  const finder = new Finder(texts);
  if (typeof text !== "string") return { values: undefined, problems: [finder.fault(file, text)] };
  const { data, faults } = await readSource(file, text);
  if (faults.length > 0) return { values: undefined, problems: faults.map((fault) => finder.fault(file, fault)) };
  const problems = new Problems();
  const values = readOverrides(data, file, problems);
  const isUsable = !problems.hasErrors;
  if (isUsable) problems.add(look(values));
  return { values: isUsable ? values : undefined, problems: await locateAll(problems.all, texts, locateHere) };
}

async function textOf(entry: Entry): Promise<string | FileFault> {
  const fault = (code: FileFault["code"], message: string, expected: string): FileFault => ({
    code,
    message,
    expected,
    range: { start: 0, end: 0 },
  });
  try {
    return decodeText(await entry.bytes()) ?? fault("file-not-text", "This file is not UTF-8 text.", "UTF-8");
  } catch (error) {
    const why = `This file cannot be read: ${reasonOf(error)}.`;
    return fault("file-unreadable", why, "a file that this process may read");
  }
}

/** The overrides of a parsed file, held against its form; a file that holds none overrides nothing. */
export function readOverrides(data: unknown, file: string, problems: Problems): ReadonlyMap<string, unknown> {
  const walk = new Walk(problems, file);
  if (isObject(data) && !checkFormatVersion(data, file, problems)) return new Map();
  const read = overridesFile.read(data, walk);
  return new Map(Object.entries(read?.overrides ?? {}));
}
