import type { Command } from "commander";
import { checkDefinitions } from "../../checks/index.ts";
import {
  type Loaded,
  type LocatedProblem,
  loadFolder,
  localOverridesFile,
  locateProblems,
  readLocalOverrides,
  shownPath,
} from "../../files/index.ts";
import { catalogueProblems, overrideProblems } from "../../flags/index.ts";
import { type Definitions, shortRevision } from "../../model/index.ts";
import type { Problem } from "../../problems/index.ts";
import { printable } from "../../values/index.ts";
import { cataloguesIn } from "../catalogue-files.ts";
import { atOption, type Cli } from "../cli.ts";
import { type FolderOptions, renderFolderProblems } from "../folder.ts";
import { instantOf } from "../instant.ts";
import { count, type ExitCode, json, type Output, UsageError } from "../output.ts";
import { sarifLog } from "../sarif.ts";

export interface CheckOptions extends FolderOptions {
  readonly json?: boolean;
  readonly sarif?: boolean;
  readonly catalogue?: string;
  readonly at?: string;
}

export function addCheck(command: Command, cli: Cli): void {
  command
    .option(...atOption)
    .option("--sarif", "answer as SARIF 2.1.0, for code hosts")
    .option("--catalogue <module>", "hold the catalogues that a JavaScript module exports against the files")
    .action(async (options) => cli.finish(await check(options, cli.output, cli.version)));
}

async function check(options: CheckOptions, output: Output, version: string): Promise<ExitCode> {
  const loaded = await loadFolder(options.flags);
  const problems = await checked(loaded, options);
  const failed = problems.some((p) => p.severity === "error");
  if (options.json && options.sarif) throw new UsageError("One answer at a time.", "write --json or --sarif");
  if (options.sarif)
    output.out(json(sarifLog(problems, (file) => shownPath(options.flags, file).replaceAll("\\", "/"), version)));
  else if (options.json) output.out(json({ problems: problems.map(stableProblem) }));
  else output.out(report(options.flags, loaded, problems, output.colour));
  return failed ? 1 : 0;
}

async function checked(loaded: Loaded, { catalogue, at }: CheckOptions): Promise<readonly LocatedProblem[]> {
  const { definitions } = loaded;
  const local = loaded.content.source.entries.get(localOverridesFile);
  const overrides = await readLocalOverrides(local, (values) =>
    definitions && local ? overrideProblems(values, definitions, localOverridesFile) : [],
  );
  if (!definitions) return [...loaded.problems, ...overrides.problems];
  const found = [
    ...checkDefinitions(definitions, { at: instantOf(at) }),
    ...(await heldAgainst(catalogue, definitions)),
  ];
  return [...(await locateProblems(loaded, found)), ...overrides.problems];
}

async function heldAgainst(module: string | undefined, definitions: Definitions): Promise<Problem[]> {
  if (module === undefined) return [];
  const catalogues = await cataloguesIn(module);
  return catalogues.flatMap((catalogue) => catalogueProblems(catalogue, definitions, module));
}

/** What `--json` promises, key by key. */
function stableProblem({
  severity,
  code,
  file,
  line,
  column,
  message,
  found,
  expected,
  help,
  related,
}: LocatedProblem): object {
  return { severity, code, file, line, column, message, found, expected, help, related };
}

function report(folder: string, loaded: Loaded, problems: readonly LocatedProblem[], colour: boolean): string {
  const errors = problems.filter((p) => p.severity === "error").length;
  const warnings = problems.length - errors;
  const details = problems.length === 0 ? "" : `${renderFolderProblems(folder, loaded, problems, colour)}\n\n`;
  return `${details}${summary(folder, loaded, errors, warnings)}\n`;
}

function summary(folder: string, { content, definitions }: Loaded, errors: number, warnings: number): string {
  const files = count(content.definitions.length, "file");
  const flags = definitions ? `, ${count(definitions.flags.size, "flag")}` : "";
  const found =
    errors + warnings === 0 ? "nothing to complain of" : `${count(errors, "error")}, ${count(warnings, "warning")}`;
  const revision = definitions ? `, revision ${shortRevision(definitions.revision)}` : "";
  return `${printable(folder)}: ${files}${flags}${revision}: ${found}.`;
}
