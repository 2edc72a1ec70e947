import { checkCondition, scopeOf } from "../../checks/index.ts";
import { parseCondition } from "../../language/index.ts";
import type { Definitions } from "../../model/index.ts";
import { type Problem, problem } from "../../problems/index.ts";

/**
 * What is wrong with a condition that is being written, with its place in the text: the same problems that a check finds
 * in a file.
 *
 * @example conditionProblems(definitions, "trip > 100")[0].help // "did you mean trips?"
 */
export function conditionProblems(definitions: Definitions, text: string): readonly Problem[] {
  const place = { file: "condition", path: [] };
  const { condition, fault } = parseCondition(text);
  if (fault) return [problem(fault.code, { ...place, span: fault.span }, fault)];
  const problems: Problem[] = [];
  checkCondition(condition, scopeOf(definitions), (code, span, details) => {
    problems.push(problem(code, { ...place, span: { start: span.start, end: span.end } }, details));
  });
  return problems;
}
