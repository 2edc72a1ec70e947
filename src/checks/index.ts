// What is wrong with a set, and what can be proved about it.
export { type CheckOptions, checkDefinitions } from "./check.ts";
export { checkCondition, type Scope } from "./condition.ts";
export { type ExampleFault, Examples, type TriedExample } from "./examples.ts";
export { MeaningCheck } from "./meaning.ts";
export { isSatisfiable } from "./prover/satisfiable.ts";
export { checkReferences } from "./references.ts";
export { scopeOf } from "./scope.ts";
export type { Unread } from "./unread.ts";
