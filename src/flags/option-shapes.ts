import { checkOptions, either, mustBe, type OptionShape } from "./check-options.ts";
import type { AskingOptions, FlagsOptions, ShelfOptions } from "./options.ts";
import type { WatchTimes } from "./watch-times.ts";

const { count, object, text, work, yesNo } = mustBe;

const asking = {
  environment: text,
  catalogue: object,
  clock: work,
  strict: yesNo,
  keysForPasses: either(object, work),
  rulesForPasses: object,
  subjectKey: text,
} satisfies Record<keyof AskingOptions, OptionShape>;

const ofFolder = {
  ...asking,
  watch: either(yesNo, object),
  lastGood: text,
  overrides: text,
} satisfies Record<keyof FlagsOptions, OptionShape>;

const watchTimes = { quiet: count, longest: count, poll: count } satisfies Record<keyof WatchTimes, OptionShape>;

const ofShelf = {
  ...asking,
  keys: either(object, work),
  keptAs: text,
  lastGood: text,
  wait: either(count, yesNo),
  notBefore: object,
  staleAfter: count,
  name: text,
  localOverrides: text,
  overrides: text,
} satisfies Record<keyof ShelfOptions, OptionShape>;

/** @throws {FlagsError} for an option of following a folder that there is not, or that cannot be meant */
export function checkFolderOptions(options: FlagsOptions<unknown>): void {
  checkOptions(options, ofFolder, "followFlags for a folder");
  if (typeof options.watch === "object") checkOptions(options.watch, watchTimes, "watch");
}

/** @throws {FlagsError} for an option of following a shelf that there is not, or that cannot be meant */
export function checkShelfOptions(options: ShelfOptions<unknown>): void {
  checkOptions(options, ofShelf, "followFlags for a shelf");
}

/** @throws {FlagsError} for an option of flags in a test that there is not, or that cannot be meant */
export function checkTestOptions(options: object): void {
  checkOptions(options, { ...asking, suspended: object }, "flagsFrom");
}
