import { isShowable } from "../../calendar/index.ts";
import { clockOf, type FlagSet, HarmlessCopy, Question } from "../../judge/index.ts";
import type { Problem } from "../../problems/index.ts";
import type { AnswerWord } from "../../values/index.ts";
import { conditionProblems } from "../writing/condition-problems.ts";
import type { ExplainOptions } from "./explain.ts";
import type { ConditionTrace } from "./explanation.ts";
import { traceCondition } from "./trace-condition.ts";

/** What a condition answers for a context, and why. */
export interface ConditionExplanation {
  readonly condition: string;
  readonly environment: string | undefined;
  /** ISO 8601 in UTC. */
  readonly at: string | undefined;
  readonly revision: string;
  readonly answer: AnswerWord;
  readonly trace: ConditionTrace;
}

/**
 * Asks any condition text of a context, as a rule would: `cohort:crew`, `window:winter`, `trips > 100 and not contractor`.
 * A text that cannot be read, or that names what the set does not have, gives problems instead.
 */
export function explainCondition(
  flags: FlagSet,
  text: string,
  context: unknown,
  options: ExplainOptions = {},
):
  | { explanation: ConditionExplanation; problems?: undefined }
  | { explanation?: undefined; problems: readonly Problem[] } {
  const problems = conditionProblems(flags.definitions, text);
  if (problems.some((p) => p.severity === "error")) return { problems };
  const { references, attributes } = flags.definitions.conditions.looks(text);
  const behind = [...flags.graph.behind(references).values()].filter((path) => path !== undefined);
  const copy = new HarmlessCopy(context).take([...attributes.values(), ...behind]);
  const question = new Question(copy, clockOf(options.at), options.overrides);
  const { whereListed, reveal = false } = options;
  const trace = traceCondition(text, { flags, question, original: context, whereListed, reveal, told: new Map() });
  const at = options.at === undefined || !isShowable(question.at) ? undefined : new Date(question.at).toISOString();
  const { environment, revision } = flags;
  return { explanation: { condition: text, environment, at, revision, answer: trace.answer, trace } };
}
