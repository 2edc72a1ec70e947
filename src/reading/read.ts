import { checkReferences, MeaningCheck, type Scope, scopeOf } from "../checks/index.ts";
import {
  ConditionBook,
  DefinitionSet,
  type Definitions,
  type EnvironmentDefinition,
  Graph,
  type ListReader,
  type ListRequest,
  readAttributes,
  readCohorts,
  readSuspensions,
  readWindows,
  listRequests as requestsOf,
  type SchemaPort,
  type Suspension,
} from "../model/index.ts";
import { type Problem, Problems } from "../problems/index.ts";
import {
  collectEntries,
  collectEnvironments,
  type Document,
  type Entry,
  type EnvironmentSource,
} from "../source/index.ts";
import { isObject } from "../values/index.ts";
import { loadEngines, requireEngines } from "./engines.ts";
import type { FileMemory } from "./file-memory.ts";
import { ReadingMemory } from "./memory.ts";
import { pauseEvery } from "./read-flags.ts";
import { unreadOf } from "./unread.ts";

/** What the files alone do not hold. */
export interface ReadOptions {
  /** Gives the ids of a cohort's list file. */
  readonly lists?: ListReader | undefined;
  /** Holds values of data against the JSON Schemas of flags. */
  readonly schemas?: SchemaPort | undefined;
  /** The parsed `suspended.yaml`. */
  readonly suspended?: Document | undefined;
  /** True when some file could not be parsed: names that it may hold are then not reported as unknown. */
  readonly incomplete?: boolean | undefined;
  /**
   * True of files that were read and checked before, by the same edition of this library: that names exist, types fit and
   * nothing goes in a circle is not looked at once more.
   */
  readonly alreadyChecked?: boolean | undefined;
  /** What earlier readings of these files found out; a reading of its own if left out. @hidden */
  readonly memory?: ReadingMemory | undefined;
}

/** What came of reading: a set, unless an error keeps it from being used, and every problem. */
export interface Reading {
  /** Undefined while an error keeps the set from being used. */
  readonly definitions: Definitions | undefined;
  /** What can be read of the suspensions; they hold even while the rest cannot be used. */
  readonly suspensions: ReadonlyMap<string, Suspension>;
  /** At most 1,000, errors before warnings. */
  readonly problems: readonly Problem[];
  /** How many there are beyond those. */
  readonly more: number;
}

/**
 * Merges parsed files into a definition set and checks everything that can be checked without a context.
 *
 * @throws {Error} in a page, for a set with patterns, windows or dates before `openDefinitions` has loaded what reads them
 * @example
 * const { definitions, problems } = readDefinitions([
 *   { file: "flags.json", data: { iudex: 1, flags: { "storm-mode": { safe: false } } } },
 * ]);
 */
export function readDefinitions(documents: readonly Document[], options: ReadOptions = {}): Reading {
  const steps = readInSteps(documents, options);
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}

/**
 * Reads as `readDefinitions` does, and first loads what a page loads only for sets that need it: the engine of patterns,
 * and the calendar where there are windows or dates. Elsewhere both are there, and nothing is waited for.
 *
 * @throws what importing throws, where a part cannot be loaded; the next call tries again
 * @example
 * const { definitions } = await openDefinitions([{ file: "flags.json", data: await response.json() }]);
 * if (definitions) new FlagSet(definitions, "production").value("storm-mode");
 */
export async function openDefinitions(documents: readonly Document[], options: ReadOptions = {}): Promise<Reading> {
  await loadEngines(withSuspended(documents, options));
  return readDefinitions(documents, options);
}

function withSuspended(documents: readonly Document[], { suspended }: ReadOptions): readonly Document[] {
  return suspended ? [...documents, suspended] : documents;
}

/** Reads as `readDefinitions` does and pauses often, so that a service can go on answering while a large set is read. */
export function* readInSteps(
  documents: readonly Document[],
  { memory = new ReadingMemory(), ...options }: ReadOptions = {},
): Generator<undefined, Reading, undefined> {
  requireEngines(withSuspended(documents, options));
  const problems = new Problems();
  const memories: FileMemory[] = [];
  for (const document of documents) {
    const read = memory.file(document);
    problems.add(read.problems);
    if (read.file) memories.push(read);
    yield;
  }
  const files = memories.map(({ file }) => file!);
  const set = new DefinitionSet({
    environments: readEnvironments(yield* collectEnvironments(files, problems)),
    attributes: readAttributes(yield* collectEntries(files, "attributes", problems), problems),
    windows: readWindows(yield* collectEntries(files, "windows", problems), problems),
    cohorts: readCohorts(yield* collectEntries(files, "cohorts", problems), options.lists, problems),
    flags: yield* memory.readFlags(memories, options.schemas, problems),
    suspensions: readSuspensions(options.suspended, problems),
    conditions: new ConditionBook(),
  });
  if (!options.alreadyChecked) {
    const incomplete = options.incomplete === true || files.length < documents.length;
    const scope = scopeOf(set, unreadOf(documents, set, incomplete, problems));
    const referring = yield* checkMeaning(set, scope, memories, problems);
    yield* checkReferences(new Graph(set), set.cohorts.keys(), referring, problems);
  }
  const { all, more, hasErrors } = problems;
  return { definitions: hasErrors ? undefined : set, suspensions: set.suspensions, problems: all, more };
}

/** The list files that documents ask for, so that they can be read before the set is put together. */
export function listRequests(documents: readonly Document[], memory = new ReadingMemory()): ListRequest[] {
  return requestsOf(documents.flatMap((document) => memory.file(document).file ?? []));
}

/** The schema files that documents ask for, relative to the folder. */
export function schemaRequests(documents: readonly Document[], memory = new ReadingMemory()): string[] {
  return documents.flatMap((document) =>
    memory.file(document).schemas.flatMap((schema) => (isObject(schema) ? (schemaFileOf(schema) ?? []) : [])),
  );
}

/** The file of `{ file: … }`; undefined for a schema in place. */
export function schemaFileOf(schema: Readonly<Record<string, unknown>>): string | undefined {
  const { file, ...others } = schema;
  return typeof file === "string" && Object.keys(others).length === 0 ? file : undefined;
}

function readEnvironments(entries: readonly Entry<EnvironmentSource>[]): Map<string, EnvironmentDefinition> {
  return new Map(entries.map(({ name, source, place }) => [name, { name, place, source }]));
}

/** @returns the flags that refer to a flag, cohort or window */
function* checkMeaning(
  set: DefinitionSet,
  scope: Scope,
  memories: readonly FileMemory[],
  problems: Problems,
): Generator<undefined, string[], undefined> {
  const check = new MeaningCheck(set, scope, problems);
  for (const cohort of set.cohorts.values()) {
    check.cohort(cohort);
    yield;
  }
  check.environments();
  const names = namesOf(scope);
  const isNeeded = memories.some(({ soundUnder }) => soundUnder?.flags !== undefined);
  let flagNames = isNeeded ? yield* flagNamesOf(scope) : undefined;
  const referring: string[] = [];
  for (const memory of memories) {
    const known = memory.soundUnder;
    const isSound = known?.names === names && (known.flags === undefined || known.flags === flagNames);
    if (!isSound) {
      const wasSound = yield* checkFile(memory, set, check, problems);
      if (wasSound && memory.referring.length > 0) flagNames ??= yield* flagNamesOf(scope);
      memory.soundUnder = wasSound ? { names, flags: memory.referring.length > 0 ? flagNames : undefined } : undefined;
    }
    for (const name of memory.referring) referring.push(name);
    yield;
  }
  check.suspensions();
  return referring;
}

/** How many flags are checked between pauses. */
const checkedAtOnce = 16;

/** @returns whether all of its flags were looked at, and nothing was found */
function* checkFile(
  memory: FileMemory,
  set: DefinitionSet,
  check: MeaningCheck,
  problems: Problems,
): Generator<undefined, boolean, undefined> {
  const before = problems.count;
  const referring: string[] = [];
  let checked = 0;
  // One that another file defines as well may be this one's the next time.
  let areAllHere = true;
  const { document, source } = memory.file!;
  for (const name of Object.keys(source.flags ?? {})) {
    const flag = set.flags.get(name);
    if (flag?.file !== document.file) areAllHere = false;
    else if (check.flag(flag)) referring.push(name);
    if (++checked % checkedAtOnce === 0) yield;
  }
  memory.referring = referring;
  return areAllHere && problems.count === before;
}

/** Everything of a scope but the flags that the soundness of a flag can depend on. */
function namesOf(scope: Scope): string {
  const attributes = scope.attributeNames.map((name) => [
    name,
    scope.attribute(name)?.type,
    scope.attribute(name)?.ignoreCase,
  ]);
  const { incomplete, names } = scope.unread;
  const others = [scope.cohorts, scope.windows, scope.environments, names].map((each) => [...each]);
  return JSON.stringify([attributes, others, incomplete]);
}

/** All flags with their types. */
function* flagNamesOf(scope: Scope): Generator<undefined, string, undefined> {
  let names = "";
  let passed = 0;
  for (const name of scope.flagNames) {
    const type = scope.flag(name);
    names += typeof type === "object" ? `\n${name} ${type.join()}` : `\n${name}:${type}`;
    if (++passed % pauseEvery === 0) yield;
  }
  return names;
}
