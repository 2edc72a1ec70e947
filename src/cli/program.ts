import { Command, CommanderError } from "commander";
import { ToolError } from "../files/index.ts";
import { printableLines } from "../values/index.ts";
import { type CommandEntry, commands, otherWords } from "./commands.ts";
import { type ExitCode, type Output, UsageError } from "./output.ts";

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
  const [first, second] = words.filter((word) => !word.startsWith("-"));
  const meant = first === "help" ? second : first;
  for (const entry of commands) {
    const command = announce(entry, program);
    if (command.name() === meant) (await entry.load())(command, { output, version, finish });
  }
  try {
    if (meant !== undefined && Object.hasOwn(otherWords, meant))
      throw new UsageError(`There is no command “${meant}”.`, `write ${otherWords[meant]}`);
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
    .commandsGroup("Help:")
    .configureOutput({ writeOut: (text) => output.out(text), writeErr: (text) => output.err(printableLines(text)) })
    .exitOverride();
}

/** A command with what the help says of it, and the options that all of them take. */
function announce({ usage, description, example, group, readsFolder = true }: CommandEntry, program: Command): Command {
  const command = program
    .command(usage)
    .description(description)
    .helpGroup(`${group}:`)
    .option("--json", "answer as JSON")
    .addHelpText("after", `\nFor example:\n  ${example}`)
    .copyInheritedSettings(program);
  return readsFolder ? command.option("--flags <folder>", "the definition folder", "./flags") : command;
}
