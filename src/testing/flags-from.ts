import { schemaPort } from "../files/index.ts";
import {
  type AskingOptions,
  checkTestOptions,
  DefinitionStore,
  Flags,
  FlagsError,
  type FlagsOptions,
  opened,
} from "../flags/index.ts";
import { followFlags } from "../follow/index.ts";
import { pointer } from "../problems/index.ts";
import { readDefinitions } from "../reading/index.ts";

/** What flags are made with for a test. */
export interface FlagsFromOptions<C = undefined> extends AskingOptions<C> {
  /** Suspensions, as `suspended.yaml` holds them: `{ "zone-fares": { note: "fares off by one zone" } }`. */
  readonly suspended?: Readonly<Record<string, object>> | undefined;
}

/**
 * Flags without files: from definitions as a file would hold them. `iudex: 1` may be left out. What is not a flag, or does
 * not fit one, throws.
 *
 * @throws {FlagsError} with every problem of the definitions
 * @example const flags = flagsFrom({ flags: { "storm-mode": { safe: false } } });
 */
export function flagsFrom<C = undefined>(definitions: object, options: FlagsFromOptions<C> = {}): Flags<C> {
  checkTestOptions(options);
  const { suspended, ...asking } = options;
  const { definitions: set, problems } = readDefinitions(
    [{ file: "definitions", data: { iudex: 1, ...definitions } }],
    { schemas: schemaPort(), suspended: suspended && { file: "suspended", data: { iudex: 1, suspended } } },
  );
  const errors = problems.filter((p) => p.severity === "error");
  if (!set || errors.length > 0) {
    throw new FlagsError(
      `These definitions cannot be used:\n${errors.map((p) => `  ${pointer(p.place.path)}: ${p.message}`).join("\n")}`,
    );
  }
  return Flags.of<C>(new DefinitionStore(opened(set, { kind: "code" })), { strict: true, ...asking }).release();
}

/** Flags of a folder as it is now: nothing is watched, and IUDEX_OVERRIDES does not count. */
export function flagsFromFolder<C = undefined>(
  folder: string,
  options: Omit<FlagsOptions<C>, "watch" | "lastGood"> = {},
): Promise<Flags<C>> {
  return followFlags<C>(folder, { strict: true, overrides: "", ...options, watch: false });
}
