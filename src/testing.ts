/**
 * Flags, clocks and overrides for tests.
 *
 * @module iudex/testing
 */
export {
  assertGives,
  type CombinationOptions,
  combinations,
  eachVariant,
  type FlagsFromOptions,
  flagsFrom,
  flagsFromFolder,
  overrideUntilEnd,
  overriding,
  type TestClock,
  type TestEnd,
  testClock,
} from "./testing/index.ts";
