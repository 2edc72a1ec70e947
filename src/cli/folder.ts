import { type Loaded, loadFolder, renderProblems, shownPath, unsaidSuspensions } from "../files/index.ts";
import { FlagSet } from "../judge/index.ts";
import type { Definitions } from "../model/index.ts";
import { nearest, sentenceList } from "../values/index.ts";
import { count, type Output, problemPaint, UsageError } from "./output.ts";

/** Options that every command takes. */
export interface FolderOptions {
  readonly flags: string;
  readonly env?: string | undefined;
}

export interface OpenedFolder {
  readonly loaded: Loaded;
  readonly definitions: Definitions;
}

/** Loads the folder for a command that needs a sound set; prints the problems and gives undefined if it is not. */
export async function openFolder(options: FolderOptions, output: Output): Promise<OpenedFolder | undefined> {
  const loaded = await loadFolder(options.flags);
  if (loaded.definitions) {
    const unsaid = unsaidSuspensions(loaded);
    if (unsaid) output.err(`${unsaid}.\nHere nothing is suspended; running programs go on with what was.\n\n`);
    return { loaded, definitions: loaded.definitions };
  }
  const errors = loaded.problems.filter((p) => p.severity === "error");
  output.err(`${renderFolderProblems(options.flags, loaded, errors, output.colour)}\n\n`);
  output.err(`The definitions in ${options.flags} cannot be used: ${count(errors.length, "error")}.\n`);
  return undefined;
}

export function renderFolderProblems(
  folder: string,
  loaded: Loaded,
  problems: Loaded["problems"],
  colour: boolean,
): string {
  return renderProblems(problems, {
    text: (file) => loaded.content.files.get(file)?.text,
    path: (file) => shownPath(folder, file),
    paint: problemPaint(colour),
  });
}

/** The set for the environment asked for; asks for one where the set declares any. */
export function setFor(definitions: Definitions, environment: string | undefined): FlagSet {
  if (environment === undefined && definitions.environments.size > 0) {
    const known = [...definitions.environments.keys()];
    throw new UsageError(
      "The definitions declare environments; say which one is meant.",
      `add --env and one of ${sentenceList(known, "or")}`,
    );
  }
  return new FlagSet(definitions, knownEnvironment(definitions, environment));
}

/** An environment that is declared, or none. */
export function knownEnvironment(definitions: Definitions, environment: string | undefined): string | undefined {
  const known = [...definitions.environments.keys()];
  if (environment === undefined || known.length === 0 || known.includes(environment)) return environment;
  const near = nearest(environment, known);
  throw new UsageError(
    `There is no environment “${environment}”.`,
    near ? `did you mean --env ${near}?` : `add --env and one of ${sentenceList(known, "or")}`,
  );
}

export function requireFlag(definitions: Definitions, name: string): void {
  if (definitions.flags.has(name)) return;
  const near = nearest(name, definitions.flags.keys());
  throw new UsageError(`There is no flag “${name}”.`, near ? `did you mean ${near}?` : "iudex list names them all");
}
