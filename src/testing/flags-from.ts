import { readDefinitions } from "../core.ts";
import { pointer } from "../problems/problem.ts";
import { FlagsError } from "../runtime/errors.ts";
import { type AskingOptions, Flags } from "../runtime/flags.ts";
import { type FlagsOptions, type FolderFlags, openFlags } from "../runtime/folder-flags.ts";

/**
 * Flags without files: from definitions as a file would hold them. `iudex: 1` may be left out.
 *
 * @throws {FlagsError} with every problem of the definitions
 * @example const flags = flagsFrom({ flags: { "storm-mode": { safe: false } } });
 */
export function flagsFrom<C = undefined>(definitions: object, options: AskingOptions<C> = {}): Flags<C> {
  const { definitions: set, problems } = readDefinitions([{ file: "definitions", data: { iudex: 1, ...definitions } }]);
  if (!set) {
    const errors = problems.filter((p) => p.severity === "error");
    throw new FlagsError(
      `These definitions cannot be used:\n${errors.map((p) => `  ${pointer(p.place.path)}: ${p.message}`).join("\n")}`,
    );
  }
  return new Flags<C>(set, { strict: true, ...options });
}

/** Flags of a folder as it is now: nothing is watched, and IUDEX_OVERRIDES does not count. */
export function flagsFromFolder<C = undefined>(
  folder: string,
  options: Omit<FlagsOptions<C>, "watch" | "lastGood"> = {},
): Promise<FolderFlags<C>> {
  return openFlags<C>(folder, { strict: true, overrides: "", ...options, watch: false });
}
