import { checkOptions, either, FlagsError, mustBe, type OptionShape, type OptionShapes } from "../flags/index.ts";
import type { GateOptions, PageOptions, StreamOptions } from "./gate-options.ts";

const { count, names, object, off, text, work, yesNo } = mustBe;

const ofGate = {
  context: work,
  pass: either(object, off),
  madeFrom: names,
  sharedCaches: yesNo,
  address: work,
  isStopping: work,
  verdictHeader: yesNo,
  onFailure: work,
} satisfies Record<keyof GateOptions<unknown>, OptionShape>;

/** @throws {FlagsError} for an option of a gate that there is not, that cannot be meant, or without which there is no gate */
export function checkGateOptions(options: {
  readonly context: unknown;
  readonly pass?: object | false | undefined;
}): void {
  checkOptions(options, ofGate, "a gate");
  if (options.pass) checkOptions(options.pass, { header: text, cookie: text }, "pass");
  if (!options.context)
    throw new FlagsError("A gate needs a context: a function that gives what is known of whoever makes a request.");
}

const ofPage = { only: names };

const ofStream = {
  ...ofPage,
  every: count,
  maxWaiting: count,
  again: count,
  maxListeners: count,
  maxFromOneAddress: count,
} satisfies Record<keyof StreamOptions<never>, OptionShape>;

/** What may be shown to a page. @throws {FlagsError} for what does not say which flags that is */
export function checkPageOptions<Options extends PageOptions<string>>(options: Options, whose: string): Options {
  return checkShown(options, ofPage, whose);
}

/** How a page is told of changes. @throws {FlagsError} as `checkPageOptions`, and for an option that there is not */
export function checkStreamOptions<Options extends StreamOptions<string>>(options: Options): Options {
  return checkShown(options, ofStream, "changes");
}

function checkShown<Options extends PageOptions<string>>(
  options: Options,
  shapes: OptionShapes,
  whose: string,
): Options {
  checkOptions(options ?? {}, shapes, whose);
  if (options?.only) return options;
  throw new FlagsError(`${whose} needs to be told which flags a page may see: { only: [names] }.`);
}
