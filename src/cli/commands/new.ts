import { makeStarter } from "../../tools/index.ts";
import type { Cli } from "../cli.ts";
import { type ExitCode, json, type Output } from "../output.ts";

export function addNew(cli: Cli): void {
  cli.program
    .command("new [folder]")
    .description("A starter folder: one flag, a schema line for editors, a git-ignore line for local overrides.")
    .option("--json", "answer as JSON")
    .addHelpText("after", "\nFor example:\n  iudex new flags")
    .copyInheritedSettings(cli.program)
    .action(async (folder: string | undefined, options: { readonly json?: boolean }) =>
      cli.finish(await make(folder ?? "flags", options, cli.output)),
    );
}

async function make(folder: string, options: { readonly json?: boolean }, output: Output): Promise<ExitCode> {
  const { made } = await makeStarter(folder);
  if (options.json) output.out(json({ made }));
  else output.out(`${made.map((path) => `made ${path}`).join("\n")}\n\nTry: iudex check --flags ${folder}\n`);
  return 0;
}
