import { type Definitions, type ListRequest, saysSuspensions } from "../model/index.ts";
import { type Problem, Problems } from "../problems/index.ts";
import { readInSteps } from "../reading/index.ts";
import type { Document } from "../source/index.ts";
import { type FolderContent, type FolderTools, textsOf } from "./content.ts";
import { suspendedFile } from "./file-name.ts";
import { listKey } from "./lists.ts";
import type { FileFault } from "./parse/parsed-file.ts";
import { Finder, keptProblems, type LocatedProblem, locateAll } from "./places/located.ts";
import { inSlices, untilAborted } from "./slices.ts";

/** A folder that was read: its set, unless an error keeps it from being used, and every problem. */
export interface Loaded {
  /** @hidden */
  readonly content: FolderContent;
  /** Undefined while an error keeps the set from being used. */
  readonly definitions: Definitions | undefined;
  /**
   * The suspensions, which hold even while the rest is broken; undefined when it is not certain what they are: only a
   * file that was read, or that is certainly gone, tells.
   */
  readonly suspensions: Definitions["suspensions"] | undefined;
  readonly problems: readonly LocatedProblem[];
}

/** How what was read is put together. */
export interface JudgeOptions {
  /** It may name what it does not define. */
  readonly incomplete?: boolean;
  /** Ends it at once. */
  readonly signal?: AbortSignal | undefined;
}

/**
 * Puts the set together from what was read, without keeping the event loop waiting. What is said to be incomplete may
 * name what it does not define.
 */
export async function judgeContent(
  content: FolderContent,
  { incomplete = false, signal }: JudgeOptions = {},
): Promise<Loaded> {
  const { source, definitions, files, tools } = content;
  const documents: Document[] = [];
  const texts = textsOf(content);
  const finder = new Finder(texts);
  const faults: LocatedProblem[] = [];
  for (const { name, parsed, document } of files.values()) {
    for (const fault of parsed.faults) faults.push(finder.fault(name, asSuspensionFault(name, fault)));
    if (name !== suspendedFile && parsed.faults.length === 0) documents.push(document);
  }
  const broken = definitions.length - documents.length;
  const suspended = files.get(suspendedFile);
  const isText = suspended && (suspended.parsed.data !== undefined || suspended.parsed.faults.length === 0);
  const { schemaPort } =
    content.schemas.size > 0 || hasSchemas(documents, tools) ? await import("./parse/json-schemas.ts") : none;
  const reading = await inSlices(
    readInSteps(documents, {
      lists: (request: ListRequest) => content.lists.get(listKey(request))!.result,
      schemas: schemaPort?.(new Map([...content.schemas].map(([file, { schema }]) => [file, schema]))),
      // Of a text that cannot be read it is enough to say why.
      suspended: isText ? suspended.document : undefined,
      incomplete: incomplete || broken > 0,
      memory: tools.memory,
    }),
    signal,
  );
  const locating = locateAll([...content.problems, ...reading.problems], texts, (...words) =>
    tools.worker.locate(...words),
  );
  const located = await untilAborted(locating, signal);
  const usable = broken === 0 && !hasErrors(content.problems) && definitions.length > 0;
  const isGone = source.isListed && !source.faults.some(({ file }) => file === suspendedFile);
  const isKnown = suspended ? saysSuspensions(suspended.document) : isGone;
  return {
    content,
    definitions: usable ? reading.definitions : undefined,
    suspensions: isKnown ? reading.suspensions : undefined,
    problems: keptProblems([...faults, ...located], reading.more),
  };
}

const none: { readonly schemaPort?: undefined } = {};

/** The validator is loaded when a set needs it. */
function hasSchemas(documents: readonly Document[], { memory }: FolderTools): boolean {
  return documents.some((document) => memory.file(document).schemas.length > 0);
}

/** All problems of a loaded folder together with those that a later look at its definitions found. */
export async function locateProblems(loaded: Loaded, later: readonly Problem[]): Promise<LocatedProblem[]> {
  const { worker } = loaded.content.tools;
  const located = await locateAll(later, textsOf(loaded.content), (...words) => worker.locate(...words));
  return keptProblems([...loaded.problems, ...located], 0);
}

/** Faults in the suspension file are reported under a code that does not keep the set from being used. */
function asSuspensionFault(file: string, fault: FileFault): FileFault {
  return file === suspendedFile ? { ...fault, code: "suspension-fault" } : fault;
}

function hasErrors(problems: readonly Problem[]): boolean {
  const all = new Problems();
  all.add(problems);
  return all.hasErrors;
}
