import type { Command } from "commander";
import { catalogueModule } from "../../study/index.ts";
import type { Cli } from "../cli.ts";
import { type FolderOptions, openFolder } from "../folder.ts";
import { type ExitCode, json, type Output } from "../output.ts";

export function addCatalogue(command: Command, cli: Cli): void {
  command.action(async (options) => cli.finish(await catalogue(options, cli.output)));
}

async function catalogue(options: FolderOptions & { readonly json?: boolean }, output: Output): Promise<ExitCode> {
  const opened = await openFolder(options, output);
  if (!opened) return 1;
  const { definitions } = opened;
  const text = catalogueModule(definitions);
  output.out(options.json ? json({ revision: definitions.revision, module: text }) : text);
  return 0;
}
