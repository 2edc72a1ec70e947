import { readFile } from "node:fs/promises";
import type { Command } from "commander";
import { reasonOf } from "../../folder/index.ts";
import type { Definitions } from "../../model/index.ts";
import {
  type OverrideValue,
  type PassKey,
  type PassRequest,
  resolveOverrides,
  textLayerValue,
  Written,
} from "../../runtime/index.ts";
import { isObject, own } from "../../values/index.ts";
import { type Cli, envOption } from "../cli.ts";
import { type FolderOptions, openFolder, setFor } from "../folder.ts";
import { type ExitCode, json, type Output, UsageError } from "../output.ts";

export interface PassCommand extends FolderOptions {
  readonly for: string;
  readonly key?: string;
  readonly json?: boolean;
}

const keyVariable = "IUDEX_PASS_KEY";

export function addPass(command: Command, cli: Cli): void {
  command
    .option(...envOption)
    .requiredOption("--for <time>", "how long it is good, such as 30m, 2h or 7d")
    .option("--key <file>", `the JSON Web Key to sign with; else the one in ${keyVariable}`)
    .action(async (pairs: string[], options) => cli.finish(await pass(pairs, options, cli.output)));
}

async function pass(pairs: readonly string[], options: PassCommand, output: Output): Promise<ExitCode> {
  const opened = await openFolder(options, output);
  if (!opened) return 1;
  const set = setFor(opened.definitions, options.env);
  if (set.environment === undefined)
    throw new UsageError("A pass is for one environment, and the definitions declare none.");
  const flags = overridesOf(pairs, opened.definitions);
  const expires = Date.now() + lengthOf(options.for);
  const token = await signed({ flags, environment: set.environment, expires }, await keyFrom(options.key));
  const until = new Date(expires).toISOString();
  if (options.json) output.out(json({ pass: token, flags, environment: set.environment, expires: until }));
  else {
    output.out(`${token}\n`);
    output.err(`good until ${until} in ${set.environment}\n`);
  }
  return 0;
}

/** Flag → variant or value, held against the set as a service would. */
function overridesOf(pairs: readonly string[], definitions: Definitions): Record<string, unknown> {
  const overrides = new Map<string, OverrideValue>();
  for (const pair of pairs) {
    const equals = pair.indexOf("=");
    const name = pair.slice(0, equals);
    if (equals < 1)
      throw new UsageError(`“${pair}” is no pair.`, "write a flag and a variant or value: berth-view=true");
    overrides.set(name, textLayerValue(name, new Written(pair.slice(equals + 1)), definitions));
  }
  const [fault] = resolveOverrides(overrides, "pass", definitions).refused;
  if (fault !== undefined) throw new UsageError(fault, "see iudex list for the flags and what they give");
  return Object.fromEntries(
    [...overrides].map(([name, given]) => [name, "variant" in given ? given.variant : given.value]),
  );
}

async function signed(request: PassRequest, key: PassKey): Promise<string> {
  const { signPass } = await import("../../runtime/index.ts");
  try {
    return await signPass(request, key);
  } catch (error) {
    throw new UsageError(`The key cannot sign: ${reasonOf(error)}.`, "give a private or secret key with kid and alg");
  }
}

const units = { m: 60_000, h: 3_600_000, d: 86_400_000 };

function lengthOf(text: string): number {
  const match = /^([1-9][0-9]{0,4})([mhd])$/.exec(text);
  if (!match) throw new UsageError(`“${text}” is no length of time.`, "write --for 30m, 2h or 7d");
  return Number(match[1]) * units[match[2] as keyof typeof units];
}

async function keyFrom(file: string | undefined): Promise<PassKey> {
  const text = file === undefined ? process.env[keyVariable] : await readFile(file, "utf8").catch(() => undefined);
  if (text === undefined) {
    throw new UsageError(
      file === undefined ? "There is no key to sign with." : `The key file “${file}” cannot be read.`,
      `write --key FILE, or put a JSON Web Key into ${keyVariable}`,
    );
  }
  try {
    const key: unknown = JSON.parse(text);
    if (isObject(key) && typeof own(key, "kid") === "string" && typeof own(key, "alg") === "string")
      return key as unknown as PassKey;
  } catch {
    // Said below; what the file holds is a secret and is not shown.
  }
  throw new UsageError(
    "The key is no JSON Web Key with kid and alg.",
    'write { "kty": "OKP", "kid": "2026-11", "alg": "EdDSA", … }',
  );
}
