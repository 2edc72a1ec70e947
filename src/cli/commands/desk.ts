import { spawn } from "node:child_process";
import { randomBytes } from "node:crypto";
import { once } from "node:events";
import { rm, stat, writeFile } from "node:fs/promises";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir, userInfo } from "node:os";
import { join } from "node:path";
import type { Command } from "commander";
import { deskHandler, type Permission } from "../../desk/index.ts";
import { loadFolder, makeOwnFolder } from "../../files/index.ts";
import { didYouMean, noSuch, sentenceList } from "../../values/index.ts";
import { type Cli, envOption } from "../cli.ts";
import type { FolderOptions } from "../folder.ts";
import { type ExitCode, json, type Output, UsageError } from "../output.ts";

export interface DeskCommand extends FolderOptions {
  readonly people?: readonly string[];
  readonly verdicts?: string;
  readonly outcomes?: string;
  readonly port?: string;
  readonly open?: boolean;
  readonly readOnly?: boolean;
  readonly json?: boolean;
}

export function addDesk(command: Command, cli: Cli): void {
  command
    .option(...envOption)
    .option("--people <files...>", "files of contexts, CSV or NDJSON, that the page may look into and count")
    .option("--verdicts <file>", "with --outcomes: who got what, to tell what came of a flag, as iudex weigh does")
    .option("--outcomes <file>", "with --verdicts: what came of it")
    .option("--port <number>", "the port; a free one if left out")
    .option("--no-open", "do not open a browser")
    .option("--read-only", "for looking only")
    .action(async (options) => cli.finish(await desk(options, cli.output)));
}

const all: readonly Permission[] = ["look", "suspend", "change"];

/** @throws {UsageError} for an environment that the definitions do not declare, where they can be read */
async function mustBeEnvironment({ env, flags: folder }: DeskCommand): Promise<void> {
  if (env === undefined) return;
  const { definitions } = await loadFolder(folder);
  if (!definitions || definitions.environments.has(env)) return;
  const names = [...definitions.environments.keys()];
  const help = names.length === 0 ? "leave --env out" : (didYouMean(env, names) ?? `there are ${sentenceList(names)}`);
  throw new UsageError(noSuch("environment", env), help);
}

/** Serves the desk on this machine, for whoever holds its address, until it is interrupted. */
async function desk(options: DeskCommand, output: Output): Promise<ExitCode> {
  const port = portOf(options.port);
  const found = await stat(options.flags).catch(() => undefined);
  if (!found?.isDirectory()) {
    throw new UsageError(`There is no folder “${options.flags}”.`, "write --flags and the definition folder");
  }
  await mustBeEnvironment(options);
  for (const file of options.people ?? []) {
    if (!(await stat(file).catch(() => undefined))?.isFile())
      throw new UsageError(`There is no file “${file}”.`, "write --people and a CSV or NDJSON file");
  }
  // Whoever does not know the address finds nothing: the secret is drawn anew at every start.
  const at = `/${randomBytes(18).toString("base64url")}`;
  const who = userInfo().username;
  const handler = deskHandler({
    folder: options.flags,
    at,
    who: () => ({ name: who, may: all }),
    environment: options.env,
    people: options.people,
    weighing: weighingOf(options),
    readOnly: options.readOnly,
    failed: (error) => output.err(`${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`),
  });
  const server = createServer(handler);
  server.listen(port, "127.0.0.1");
  try {
    await once(server, "listening");
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    throw new UsageError(`Port ${port} cannot be used: ${code}.`, "leave --port out, or write another one");
  }
  const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}${at}/`;
  if (options.json) output.out(json({ address }));
  else output.out(`The desk is open at ${address}\nThe address is for you alone. Ctrl-C closes the desk.\n`);
  const forget = options.open === false ? async () => {} : await openBrowser(address);
  server.on("request", ({ url }) => url?.startsWith(at) && void forget());
  await output.interrupted?.();
  await forget();
  await handler.close();
  server.closeAllConnections();
  server.close();
  return 0;
}

function weighingOf({ verdicts, outcomes }: DeskCommand): { verdicts: string; outcomes: string } | undefined {
  if (verdicts !== undefined && outcomes !== undefined) return { verdicts, outcomes };
  if (verdicts === undefined && outcomes === undefined) return undefined;
  throw new UsageError("--verdicts and --outcomes go together.", "give both, or neither");
}

function portOf(text: string | undefined): number {
  if (text === undefined) return 0;
  const port = Number(text);
  if (Number.isInteger(port) && port > 0 && port < 65_536) return port;
  throw new UsageError(`“${text}” is not a port.`, "write a number from 1 to 65535");
}

/**
 * Opens the address by a file that only its owner can read: the arguments of a program can be read by everybody on the
 * machine. The file is gone when the desk was asked for, or ends. Who has no browser has the address.
 *
 * @returns removes the file
 */
async function openBrowser(address: string): Promise<() => Promise<void>> {
  const folder = await makeOwnFolder(tmpdir(), "desk");
  const file = join(folder, "desk.html");
  const page = `<!doctype html><meta charset="utf-8"><title>The desk</title><meta http-equiv="refresh" content="0; url=${address}">`;
  await writeFile(file, page, { mode: 0o600, flag: "wx" });
  const [program, ...words] = { darwin: ["open"], win32: ["cmd", "/c", "start", ""] }[process.platform as string] ?? [
    "xdg-open",
  ];
  const child = spawn(program!, [...words, file], { stdio: "ignore", detached: true });
  child.on("error", () => {});
  child.unref();
  return () => rm(folder, { recursive: true, force: true });
}
