import type { Command } from "commander";
import { makeStarter } from "../../study/index.ts";
import type { Cli } from "../cli.ts";
import { type ExitCode, json, type Output } from "../output.ts";

export function addNew(command: Command, cli: Cli): void {
  command.action(async (folder: string | undefined, options: { readonly json?: boolean }) =>
    cli.finish(await make(folder ?? "flags", options, cli.output)),
  );
}

async function make(folder: string, options: { readonly json?: boolean }, output: Output): Promise<ExitCode> {
  const { made } = await makeStarter(folder);
  if (options.json) output.out(json({ made }));
  else output.out(`${made.map((path) => `made ${path}`).join("\n")}\n\nTry: iudex check --flags ${folder}\n`);
  return 0;
}
