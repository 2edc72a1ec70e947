/**
 * Flags, clocks and overrides for tests.
 *
 * @module iudex/testing
 */
export {
  type AfterEnd,
  assertGives,
  type CombinationOptions,
  combinations,
  eachVariant,
  type FinishedEnd,
  type FlagsFromOptions,
  flagsFrom,
  flagsFromFolder,
  type MakeTest,
  overrideUntilEnd,
  overriding,
  type TestClock,
  type TestEnd,
  testClock,
} from "./testing/index.ts";
