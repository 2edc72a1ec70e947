// From a question to an outcome.
export { Asking } from "./asking.ts";
export { compileTest, type Declared, decideFound } from "./compile.ts";
export { CompiledFlag, type Met, type Recorder } from "./compiled-flag.ts";
export { CompiledRule } from "./compiled-rule.ts";
export { HarmlessCopy } from "./context/harmless.ts";
export { isPlainContext } from "./context/reach.ts";
export { readerOf } from "./context/reader.ts";
export { idText, readPath } from "./context/subject.ts";
export { type AskOptions, clockOf, FlagSet, type Reading } from "./flag-set.ts";
export { type Cause, Outcome, type OverrideLayer, type Verdict } from "./outcome.ts";
export { type Clock, type Overrides, Question } from "./question.ts";
