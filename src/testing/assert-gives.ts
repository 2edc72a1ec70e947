import { AssertionError } from "node:assert";
import { isDeepStrictEqual } from "node:util";
import type { NameOf, ValueOf } from "../catalogue/index.ts";
import type { Context, Flags } from "../flags/index.ts";
import { formatExplanation } from "../insight/index.ts";

/**
 * Asserts what a flag gives; the message of a failure is the explanation of what it gave instead.
 *
 * @throws {AssertionError} when the flag gives another value
 * @example assertGives(flags, "hold-minutes", { account: { plan: "freight" } }, 120);
 */
export function assertGives<C, N extends NameOf<C>>(
  flags: Flags<C>,
  flag: N,
  context: Context,
  expected: ValueOf<C, N>,
): void {
  const actual = flags.value(flag, context);
  if (isDeepStrictEqual(actual, expected)) return;
  const explanation = flags.explain(flag, context);
  const why = explanation ? `\n\n${formatExplanation(explanation)}` : "";
  throw new AssertionError({
    message: `Expected ${flag} to give ${JSON.stringify(expected)}, but it gives ${JSON.stringify(actual)}.${why}`,
    actual,
    expected,
    operator: "assertGives",
    stackStartFn: assertGives,
  });
}
