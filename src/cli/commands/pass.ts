import { randomUUID } from "node:crypto";
import type { Command } from "commander";
import { reasonOf } from "../../files/index.ts";
import {
  type OverrideValue,
  type PassKey,
  type PassRequest,
  type PassSubject,
  resolveOverrides,
  textLayerValue,
  Written,
} from "../../flags/index.ts";
import { parsePath } from "../../language/index.ts";
import type { Definitions } from "../../model/index.ts";
import { type Cli, envOption } from "../cli.ts";
import { type FolderOptions, openFolder, setFor } from "../folder.ts";
import { lengthOf } from "../instant.ts";
import { keyFrom } from "../key.ts";
import { type ExitCode, json, type Output, UsageError } from "../output.ts";

export interface PassCommand extends FolderOptions {
  readonly for: string;
  readonly subject?: string;
  readonly key?: string;
  readonly json?: boolean;
}

const keyVariable = "IUDEX_PASS_KEY";

export function addPass(command: Command, cli: Cli): void {
  command
    .option(...envOption)
    .requiredOption("--for <time>", "how long it is good, such as 30m, 2h or 7d")
    .option("--subject <attribute=id>", "whose requests it is for, such as account.id=A-17; else whoever holds it")
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
  mustBeTouchable(Object.keys(flags), opened.definitions, set.environment);
  const expires = Date.now() + lengthOf(options.for, "--for");
  const subject = options.subject === undefined ? undefined : subjectOf(options.subject);
  const id = randomUUID();
  const { environment } = set;
  const token = await signed({ flags, environment, expires, subject, id }, await signingKey(options.key));
  const until = new Date(expires).toISOString();
  if (options.json) output.out(json({ pass: token, id, flags, environment, subject, expires: until }));
  else {
    output.out(`${token}\n`);
    const whose = subject ? ` for ${subject.by} ${subject.id}` : " for whoever holds it";
    output.err(`good until ${until} in ${environment}${whose}; its id is ${id}\n`);
    if (expires > Date.now() + lengthOf("1d", "--for"))
      output.err("services take it only in its last 24 hours, unless their rulesForPasses allow longer ones\n");
  }
  return 0;
}

/** A service takes a pass for the flags alone that the environment lets passes touch. */
function mustBeTouchable(flags: readonly string[], { environments }: Definitions, environment: string): void {
  const { source, place } = environments.get(environment)!;
  const refused = flags.find((flag) => !(source.passes?.includes(flag) ?? true));
  if (refused === undefined) return;
  throw new UsageError(
    `No pass has an effect on ${refused} in ${environment}.`,
    `add ${refused} to the passes of ${environment} in ${place.file}`,
  );
}

function subjectOf(text: string): PassSubject {
  const equals = text.indexOf("=");
  const by = text.slice(0, equals);
  if (equals < 1 || equals === text.length - 1 || parsePath(by).path === undefined)
    throw new UsageError(`“${text}” names nobody.`, "write an attribute and an id: --subject account.id=A-17");
  return { by, id: text.slice(equals + 1) };
}

/** Flag → variant or value, held against the set as a service would. */
function overridesOf(pairs: readonly string[], definitions: Definitions): Record<string, unknown> {
  const overrides = new Map<string, OverrideValue>();
  for (const pair of pairs) {
    const equals = pair.indexOf("=");
    const name = pair.slice(0, equals);
    if (equals < 1)
      throw new UsageError(`“${pair}” is not a pair.`, "write a flag and a variant or value: berth-view=true");
    overrides.set(name, textLayerValue(name, new Written(pair.slice(equals + 1)), definitions));
  }
  const [fault] = resolveOverrides(overrides, "pass", definitions).refused;
  if (fault !== undefined) throw new UsageError(fault, "see iudex list for the flags and what they give");
  return Object.fromEntries(
    [...overrides].map(([name, given]) => [name, "variant" in given ? given.variant : given.value]),
  );
}

async function signed(request: PassRequest, key: PassKey): Promise<string> {
  const { signPass } = await import("../../flags/index.ts");
  try {
    return await signPass(request, key);
  } catch (error) {
    throw new UsageError(`The key cannot sign: ${reasonOf(error)}.`, "give a private or secret key with kid and alg");
  }
}

async function signingKey(file: string | undefined): Promise<PassKey> {
  const key = await keyFrom(file, keyVariable);
  if (key) return key as PassKey;
  throw new UsageError("There is no key to sign with.", `write --key FILE, or put a JSON Web Key into ${keyVariable}`);
}
