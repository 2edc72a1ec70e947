import type { ExitCode, Output } from "./output.ts";

/** What a command is given to answer with. */
export interface Cli {
  readonly output: Output;
  readonly version: string;
  finish(code: ExitCode): void;
}

export const atOption = ["--at <instant>", "the instant, such as 2026-12-05T12:00Z; now if left out"] as const;
export const envOption = ["--env <name>", "the environment"] as const;
export const peopleOption = ["--people <file>", "contexts, CSV or NDJSON: whom the change reaches"] as const;
