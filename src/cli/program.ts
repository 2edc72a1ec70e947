import { Command, CommanderError } from "commander";
import { ToolError } from "../tools/index.ts";
import { printableLines } from "../values/index.ts";
import type { Cli } from "./cli.ts";
import { addAgenda } from "./commands/agenda.ts";
import { addCatalogue } from "./commands/catalogue.ts";
import { addCensus } from "./commands/census.ts";
import { addCheck } from "./commands/check.ts";
import { addDiff } from "./commands/diff.ts";
import { addHistory } from "./commands/history.ts";
import { addLeftovers } from "./commands/leftovers.ts";
import { addList } from "./commands/list.ts";
import { addNew } from "./commands/new.ts";
import { addPass } from "./commands/pass.ts";
import { addSet } from "./commands/set.ts";
import { addReinstate, addSuspend } from "./commands/suspend.ts";
import { addWatch } from "./commands/watch.ts";
import { addWhy } from "./commands/why.ts";
import { type ExitCode, type Output, UsageError } from "./output.ts";

/** In the order in which the help lists them: looking, comparing, changing. */
const commands = [
  addNew,
  addCheck,
  addWhy,
  addList,
  addAgenda,
  addCensus,
  addDiff,
  addHistory,
  addLeftovers,
  addSuspend,
  addReinstate,
  addSet,
  addWatch,
  addCatalogue,
  addPass,
];

/**
 * Runs the command line.
 *
 * @param words the arguments behind the program's name
 * @returns 0 for good news, 1 for bad news, 2 for wrong use
 */
export async function run(words: readonly string[], output: Output, version: string): Promise<ExitCode> {
  let code: ExitCode = 0;
  const finish = (answer: ExitCode) => {
    code = answer;
  };
  const program = programFor(output, version);
  const cli: Cli = { program, output, version, finish };
  for (const add of commands) add(cli);
  try {
    await program.parseAsync([...words], { from: "user" });
    return code;
  } catch (error) {
    return failed(error, output);
  }
}

function failed(error: unknown, output: Output): ExitCode {
  // Help and version end the program by the same way as errors do.
  if (error instanceof CommanderError) return error.exitCode === 0 ? 0 : 2;
  if (!(error instanceof UsageError || error instanceof ToolError)) throw error;
  output.err(`${printableLines(`${error.message}${error.help ? `\n${error.help}` : ""}`)}\n`);
  return 2;
}

function programFor(output: Output, version: string): Command {
  return new Command("iudex")
    .description("Looks at flag definitions, explains verdicts, compares changes and makes them.")
    .version(version, "-V, --version", "say the version")
    .helpOption("-h, --help", "say how it is used")
    .showSuggestionAfterError()
    .configureOutput({ writeOut: (text) => output.out(text), writeErr: (text) => output.err(printableLines(text)) })
    .exitOverride();
}
