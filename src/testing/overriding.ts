import type { NameOf } from "../catalogue/index.ts";
import { type CodeOverrides, type Flags, variant } from "../flags/index.ts";

/** What ends with a test: Vitest's context has `onTestFinished`, that of `node:test` has `after`. */
export type TestEnd = FinishedEnd | AfterEnd;

/** As Vitest's context has it. */
export interface FinishedEnd {
  /** Takes what is to be done when the test is over. */
  onTestFinished(undo: () => void): unknown;
}

/** As the context of `node:test` has it. */
export interface AfterEnd {
  /** Takes what is to be done when the test is over. */
  after(undo: () => void): unknown;
}

/**
 * Overrides flags until the end of a test. The override holds in the whole process; where tests run at the same time,
 * use `overriding`.
 *
 * @example test("storm", (t) => { overrideUntilEnd(t, flags, { "storm-mode": true }); … });
 */
export function overrideUntilEnd<C>(test: TestEnd, flags: Flags<C>, values: CodeOverrides<C>): void {
  const { undo } = flags.override(values);
  if ("onTestFinished" in test) test.onTestFinished(undo);
  else test.after(undo);
}

/**
 * Wraps a test so that flags are overridden inside it, across awaits, and nowhere else: safe in parallel tests.
 *
 * @example test.concurrent("storm", overriding(flags, { "storm-mode": true }, async () => { … }));
 */
export function overriding<C, Arguments extends readonly unknown[], Result>(
  flags: Flags<C>,
  values: CodeOverrides<C>,
  test: (...words: Arguments) => Result,
): (...words: Arguments) => Result {
  return (...words) => flags.withOverrides(values, () => test(...words));
}

/** Makes a test of its own out of each way, as `test` of Vitest, Jest and `node:test` does. */
export type MakeTest = (name: string, test: () => unknown) => unknown;

/**
 * Runs a test once for every variant of a flag, or for every value that it can give; a yes-no flag is tried both ways. A
 * failure names the one that failed. With the runner's own `test` each becomes a test of its own.
 *
 * @throws whatever the test throws first, with the flag and what it gave in front of the message
 * @example await eachVariant(flags, "seat-map", async (look) => { … });
 * @example eachVariant(flags, "seat-map", (look) => { … }, test); // “seat-map is classic”, “seat-map is deck”, …
 */
export async function eachVariant<C>(
  flags: Flags<C>,
  flag: NameOf<C>,
  test: (value: unknown) => unknown,
  make?: MakeTest,
): Promise<void> {
  for (const { label, override } of choicesOf(flags, flag)) {
    const name = `${flag} is ${typeof label === "string" ? label : JSON.stringify(label)}`;
    const run = () => flags.withOverrides({ [flag]: override } as CodeOverrides<C>, async () => test(label));
    if (make) make(name, run);
    else await run().catch((error: unknown) => fail(name, error));
  }
}

function fail(name: string, error: unknown): never {
  if (error instanceof Error) {
    error.message = `${name}: ${error.message}`;
    throw error;
  }
  throw new Error(`${name}: ${String(error)}`, { cause: error });
}

export interface Choice {
  /** The name of the variant, or the value. */
  readonly label: unknown;
  readonly override: unknown;
}

/** The ways in which a flag can come out. */
export function choicesOf<C>(flags: Flags<C>, flag: NameOf<C>): readonly Choice[] {
  const { variants, values } = flags.possible(flag);
  if (variants) return variants.map((name) => ({ label: name, override: variant(name) }));
  return values.map((value) => ({ label: value, override: value }));
}
