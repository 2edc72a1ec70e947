import type { Definitions } from "../model/index.ts";
import { type Problem, Problems } from "../problems/index.ts";
import { analyse } from "./analyse.ts";
import { runExamples } from "./examples.ts";

/** What the thorough look goes by. */
export interface CheckOptions {
  /** The instant by which windows are over and rising shares complete; epoch milliseconds. */
  readonly at: number;
}

/** What only a thorough look finds in a sound set: examples that fail, and warnings with a proof. */
export function checkDefinitions(definitions: Definitions, { at }: CheckOptions): readonly Problem[] {
  const problems = new Problems();
  runExamples(definitions, problems);
  analyse(definitions, at, problems);
  return problems.all;
}
