import type { Command } from "commander";
import type { ExitCode, Output } from "./output.ts";

/** What a command is given to add itself to the program. */
export interface Cli {
  readonly program: Command;
  readonly output: Output;
  readonly version: string;
  finish(code: ExitCode): void;
}

export interface CommandHelp {
  /** The name and its arguments, as `why <what>`. */
  readonly usage: string;
  readonly description: string;
  /** An example from the demo. */
  readonly example: string;
}

/** A command with the options that all of them take. */
export function addCommand({ program }: Cli, { usage, description, example }: CommandHelp): Command {
  return program
    .command(usage)
    .description(description)
    .option("--flags <folder>", "the definition folder", "./flags")
    .option("--json", "answer as JSON")
    .addHelpText("after", `\nFor example:\n  ${example}`)
    .copyInheritedSettings(program);
}

export const atOption = ["--at <instant>", "the instant, such as 2026-12-05T12:00Z; now if left out"] as const;
export const envOption = ["--env <name>", "the environment"] as const;
export const peopleOption = ["--people <file>", "contexts, CSV or NDJSON: whom the change reaches"] as const;
