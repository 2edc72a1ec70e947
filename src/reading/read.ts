import { checkMeaning, scopeOf } from "../checks/meaning.ts";
import { ConditionBook } from "../model/condition-book.ts";
import { DefinitionSet } from "../model/definition-set.ts";
import { readAttributes } from "../model/read-attributes.ts";
import { type ListReader, readCohorts } from "../model/read-cohorts.ts";
import { readFlags } from "../model/read-flags.ts";
import { readSuspensions } from "../model/read-suspensions.ts";
import { readWindows } from "../model/read-windows.ts";
import { findCircles } from "../model/references.ts";
import type { Definitions, EnvironmentDefinition, Suspension } from "../model/types.ts";
import { atKey, type Problem, Problems } from "../problems/problem.ts";
import { collectEntries, collectEnvironments, type Document, type Entry } from "../source/entries.ts";
import { definitionFile, keysOfFlags } from "../source/format.ts";
import { reportNotPlain } from "../source/plain.ts";
import { Walk } from "../source/walk.ts";
import { copyData, describeKind, findNotPlain, isObject, own, show } from "../values/data.ts";
import { limits } from "../values/limits.ts";

export interface ReadOptions {
  /** Gives the ids of a cohort's list file. */
  readonly lists?: ListReader;
  /** The parsed `suspended.yaml`. */
  readonly suspended?: Document | undefined;
  /** True when some file could not be parsed: names that it may hold are then not reported as unknown. */
  readonly incomplete?: boolean;
}

export interface Reading {
  /** Undefined while an error keeps the set from being used. */
  readonly definitions: Definitions | undefined;
  /** What can be read of the suspensions; they hold even while the rest cannot be used. */
  readonly suspensions: ReadonlyMap<string, Suspension>;
  readonly problems: readonly Problem[];
}

/**
 * Merges parsed files into a definition set and checks everything that can be checked without a context.
 *
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

/** The same, pausing often, so that a service can go on answering while a large set is read. */
export function* readInSteps(
  documents: readonly Document[],
  options: ReadOptions = {},
): Generator<undefined, Reading, undefined> {
  const problems = new Problems();
  const usable: Document[] = [];
  const prototype = keysOfFlags.some((key) => key in Object.prototype) ? null : Object.prototype;
  for (const document of documents) {
    if (checkDocument(document, problems)) usable.push(readable(document, prototype));
    yield;
  }
  const environments = readEnvironments(yield* collectEnvironments(usable, problems));
  const attributes = readAttributes(yield* collectEntries(usable, "attributes", problems), problems);
  const windows = readWindows(yield* collectEntries(usable, "windows", problems), problems);
  const cohorts = readCohorts(yield* collectEntries(usable, "cohorts", problems), options.lists, problems);
  const flags = yield* readFlags(yield* collectEntries(usable, "flags", problems), problems);
  const suspensions = readSuspensions(options.suspended, problems);
  const set = new DefinitionSet({
    environments,
    attributes,
    windows,
    cohorts,
    flags,
    suspensions,
    conditions: new ConditionBook(),
  });
  const incomplete = options.incomplete === true || usable.length < documents.length;
  yield* checkMeaning(set, scopeOf(set, incomplete), problems);
  yield* findCircles(set, problems);
  return { definitions: problems.hasErrors ? undefined : set, suspensions, problems: problems.all };
}

/** Looks at the format version and at the shape; false when nothing in the file can be used. */
function checkDocument(document: Document, problems: Problems): boolean {
  const { file, data } = document;
  if (soundFiles.has(document)) return true;
  const walk = new Walk(problems, file);
  if (!isObject(data)) {
    walk.report("format-missing", {
      message: "This file is no object with definitions.",
      found: data === null || data === undefined ? "an empty file" : describeKind(data),
      expected: `${definitionFile.expected}`,
      help: `begin the file with “iudex: ${limits.formatVersion}”`,
    });
    return false;
  }
  // What a parser made is plain; only the values that files hold freely are looked into, where they stand.
  if (!document.unchanging && !checkPlain(data, walk)) return false;
  if (!checkFormatVersion(data, file, problems)) return false;
  const before = problems.all.length;
  definitionFile.check(data, walk);
  if (problems.all.length === before && document.unchanging) soundFiles.add(document);
  return true;
}

/** Unchanging documents whose shape was found sound. */
const soundFiles = new WeakSet<Document>();

/**
 * The document, or a copy: a program may go on changing what it handed in, and the set must not change with it. Where
 * somebody has put a key of the format on `Object.prototype`, the copy has none, so that only own keys are seen.
 */
function readable(document: Document, prototype: object | null): Document {
  if (document.unchanging && prototype !== null) return document;
  return { ...document, data: copyData(document.data, prototype) };
}

/** Programs may hand in anything. */
function checkPlain(data: object, walk: Walk): boolean {
  const fault = findNotPlain(data);
  if (fault) reportNotPlain(fault, walk);
  return fault === undefined;
}

export function checkFormatVersion(data: object, file: string, problems: Problems): boolean {
  const version = own(data, "iudex");
  if (version === limits.formatVersion) return true;
  const place = atKey({ file, path: [] }, "iudex");
  if (!Object.hasOwn(data, "iudex")) {
    problems.report(
      "format-missing",
      { file, path: [] },
      {
        message: "The format version is missing.",
        expected: `iudex: ${limits.formatVersion}`,
        help: `write “iudex: ${limits.formatVersion}” as the first line`,
      },
    );
    // The rest can be looked at as if it stood there, so that one run shows all problems.
    definitionFile.check({ iudex: limits.formatVersion, ...data }, new Walk(problems, file));
    return false;
  }
  const newer = typeof version === "number" && Number.isInteger(version) && version > limits.formatVersion;
  problems.report(newer ? "format-newer" : "format-missing", place, {
    message: newer
      ? `This file is written in format ${version}; this Iudex reads format ${limits.formatVersion}.`
      : "This is no format version.",
    found: show(version),
    expected: `iudex: ${limits.formatVersion}`,
    help: newer ? "update Iudex, or write the file in the older format" : `write iudex: ${limits.formatVersion}`,
  });
  return false;
}

function readEnvironments(entries: readonly Entry[]): Map<string, EnvironmentDefinition> {
  const environments = new Map<string, EnvironmentDefinition>();
  for (const { name, source, place } of entries) {
    environments.set(name, { name, place, source: isObject(source) ? source : {} });
  }
  return environments;
}
