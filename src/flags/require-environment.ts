import type { Definitions } from "../model/index.ts";
import { didYouMean, sentenceList } from "../values/index.ts";
import { FlagsError } from "./errors.ts";

/** @throws {FlagsError} where the set declares environments and this is none of them */
export function requireEnvironment(definitions: Definitions, environment: string | undefined, folder: string): void {
  const known = [...definitions.environments.keys()];
  if (known.length === 0 || (environment !== undefined && known.includes(environment))) return;
  if (environment === undefined) {
    const choice = sentenceList(
      known.map((name) => `"${name}"`),
      "or",
    );
    throw new FlagsError(
      `The definitions in “${folder}” declare environments; say which one is meant: environment: ${choice}.`,
    );
  }
  const help = didYouMean(environment, known);
  throw new FlagsError(
    `There is no environment “${environment}” in “${folder}”; ${help ? `${help} ` : ""}Declared: ${sentenceList(known)}.`,
  );
}
