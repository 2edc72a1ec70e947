import { generateKeyPairSync } from "node:crypto";
import type { Command } from "commander";
import { reasonOf, writeNew } from "../../files/index.ts";
import { printable } from "../../values/index.ts";
import type { Cli } from "../cli.ts";
import { keySetFrom } from "../key.ts";
import { type ExitCode, json, type Output, UsageError } from "../output.ts";

interface KeyCommand {
  readonly for: readonly string[];
  readonly kid?: string;
  readonly to?: string;
  readonly keys?: string;
  readonly json?: boolean;
}

const roles = ["passes", "editions", "stops"];

export function addKey(command: Command, cli: Cli): void {
  command
    .requiredOption("--for <role...>", "what it signs: passes, editions or stops")
    .option("--kid <name>", "its id; default: the role and the month, such as stops-2026-12")
    .option("--to <file>", "the new file for the private half; default: the id, such as stops-2026-12.json")
    .option("--keys <file>", "a public set; its keys are printed in front of the new one")
    .action(async (options) => cli.finish(await key(options, cli.output)));
}

/** An Ed25519 pair (RFC 8032) as JSON Web Keys (RFC 8037). */
async function key(options: KeyCommand, output: Output): Promise<ExitCode> {
  const role = options.for.find((each) => !roles.includes(each));
  if (role !== undefined)
    throw new UsageError(`“${role}” is not something that a key signs.`, "write --for passes, editions or stops");
  const kid = options.kid ?? `${options.for.join("-")}-${new Date().toISOString().slice(0, 7)}`;
  const file = options.to ?? `${kid}.json`;
  const known = (await keySetFrom(options.keys))?.keys ?? [];
  if (known.some((each) => (each as { kid?: unknown }).kid === kid))
    throw new UsageError(`“${options.keys}” holds a key “${kid}” already.`, "choose another --kid");
  const named = { kid, alg: "EdDSA", "iudex-for": [...new Set(options.for)] };
  const { privateKey, publicKey } = generateKeyPairSync("ed25519");
  await writePrivate(file, `${JSON.stringify({ ...privateKey.export({ format: "jwk" }), ...named })}\n`);
  const keys = [...known, { ...publicKey.export({ format: "jwk" }), ...named }];
  output.out(options.json ? json({ file, kid, keys }) : json({ keys }));
  output.err(`The private half is in ${printable(file)}, which only you can read. Keep it out of the repository.\n`);
  return 0;
}

async function writePrivate(file: string, text: string): Promise<void> {
  try {
    await writeNew(file, text);
  } catch (error) {
    throw new UsageError(
      `“${file}” cannot be made: ${reasonOf(error)}.`,
      "name a file that is not there yet with --to",
    );
  }
}
