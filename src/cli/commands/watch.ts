import type { Command } from "commander";
import { shortRevision } from "../../model/index.ts";
import { printable } from "../../values/index.ts";
import { type Cli, envOption } from "../cli.ts";
import { type FolderOptions, openFolder, setFor } from "../folder.ts";
import { type ExitCode, explanationPaint, type Output } from "../output.ts";

export function addWatch(command: Command, cli: Cli): void {
  command.option(...envOption).action(async (options) => cli.finish(await watch(options, cli.output)));
}

async function watch(options: FolderOptions & { readonly json?: boolean }, output: Output): Promise<ExitCode> {
  const opened = await openFolder(options, output);
  if (!opened) return 1;
  const { environment } = setFor(opened.definitions, options.env);
  const { followFlags } = await import("../../follow/index.ts");
  const flags = await followFlags(options.flags, { environment, overrides: "" });
  const paint = explanationPaint(output.colour);
  const say = (word: string, tinted: string, { at, summary, ...rest }: { at: Date; summary: string }) => {
    if (options.json) output.out(`${JSON.stringify({ event: word, at: at.toISOString(), summary, ...rest })}\n`);
    else output.out(`${at.toISOString().slice(0, 19)}Z  ${tinted}  ${printable(summary)}\n`);
  };
  flags.on("change", (event) => say("change", paint.yes("accepted"), event));
  flags.on("rejected", (event) => say("rejected", paint.no("refused "), event));
  flags.on("recovered", (event) => say("recovered", paint.yes("sound   "), event));
  flags.on("problem", ({ message, ...event }) =>
    say("problem", paint.open("problem "), { ...event, summary: message }),
  );
  const opening = { at: new Date(), summary: `${options.flags}, revision ${shortRevision(flags.revision)}` };
  say("watching", paint.faint("watching"), opening);
  await output.interrupted?.();
  await flags.close();
  return 0;
}
