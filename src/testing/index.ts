// Flags, clocks and overrides for tests.
export { assertGives } from "./assert-gives.ts";
export { type TestClock, testClock } from "./clock.ts";
export { type CombinationOptions, combinations } from "./combinations.ts";
export { type FlagsFromOptions, flagsFrom, flagsFromFolder } from "./flags-from.ts";
export {
  type AfterEnd,
  eachVariant,
  type FinishedEnd,
  type MakeTest,
  overrideUntilEnd,
  overriding,
  type TestEnd,
} from "./overriding.ts";
