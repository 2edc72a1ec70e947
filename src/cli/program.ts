import { Command, CommanderError } from "commander";
import { check } from "./commands/check.ts";
import { list } from "./commands/list.ts";
import { why } from "./commands/why.ts";
import { type ExitCode, type Output, UsageError } from "./output.ts";

/**
 * Runs the command line.
 *
 * @param words the arguments behind the program's name
 * @returns 0 for good news, 1 for bad news, 2 for wrong use
 */
export async function run(words: readonly string[], output: Output, version: string): Promise<ExitCode> {
  let code: ExitCode = 0;
  const program = build(output, version, (answer) => {
    code = answer;
  });
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
  if (!(error instanceof UsageError)) throw error;
  output.err(`${error.message}${error.help ? `\n${error.help}` : ""}\n`);
  return 2;
}

type Finish = (code: ExitCode) => void;

function build(output: Output, version: string, finish: Finish): Command {
  const program = new Command("iudex")
    .description("Checks flag definitions and explains verdicts.")
    .version(version, "-V, --version", "say the version")
    .helpOption("-h, --help", "say how it is used")
    .showSuggestionAfterError()
    .configureOutput({ writeOut: (text) => output.out(text), writeErr: (text) => output.err(text) })
    .exitOverride();
  addCheck(program, output, version, finish);
  addWhy(program, output, finish);
  addList(program, output, finish);
  return program;
}

/** A command with the options that all of them take. */
function command(program: Command, usage: string, description: string, example: string): Command {
  return program
    .command(usage)
    .description(description)
    .option("--flags <folder>", "the definition folder", "./flags")
    .addHelpText("after", `\nFor example:\n  ${example}`)
    .copyInheritedSettings(program);
}

function addCheck(program: Command, output: Output, version: string, finish: Finish): void {
  command(
    program,
    "check",
    "Is every file sound, and do the examples hold?",
    "iudex check --flags examples/ternhaven/flags",
  )
    .option("--json", "answer as JSON")
    .option("--sarif", "answer as SARIF 2.1.0, for code hosts")
    .action(async (options) => finish(await check(options, output, version)));
}

function addList(program: Command, output: Output, finish: Finish): void {
  command(
    program,
    "list",
    "Who gets what and when, each flag in a sentence; where environments differ, a sentence each.",
    "iudex list --at 2026-12-05T12:00Z --flags examples/ternhaven/flags",
  )
    .option("--env <name>", "one environment; all of them if left out")
    .option("--at <instant>", "the instant, such as 2026-12-05T12:00Z; now if left out")
    .option("--json", "answer as JSON")
    .action(async (options) => finish(await list(options, output)));
}

function addWhy(program: Command, output: Output, finish: Finish): void {
  command(
    program,
    "why <what>",
    "Which answer does somebody get, and why? Of a flag, or of any condition, such as cohort:crew or window:winter.",
    "iudex why zone-fares --env production --as account.id=A-17 trips=140 --flags examples/ternhaven/flags",
  )
    .option("--env <name>", "the environment")
    .option("--as <pairs...>", "the context: pairs such as account.id=A-17, or one JSON or YAML file")
    .option("--at <instant>", "the instant, such as 2026-12-05T12:00Z; now if left out")
    .option("--json", "answer as JSON")
    .action(async (what: string, options) => finish(await why(what, options, output)));
}
