import type { Bucket } from "../../buckets/bucket.ts";
import { splitIndex } from "../../buckets/split.ts";
import { isShowable } from "../../calendar/instant.ts";
import { idText, readPath } from "../../judge/context/subject.ts";
import { type AskOptions, clockOf, type FlagSet } from "../../judge/flag-set.ts";
import type { Outcome } from "../../judge/outcome.ts";
import { Question } from "../../judge/question.ts";
import { type Division, divisionOf, percentAt, type Share, type Split } from "../../judge/rule.ts";
import { printPath } from "../../language/print.ts";
import { type EffectiveFlag, effectiveFlag } from "../../model/effective.ts";
import type { FlagDefinition } from "../../model/types.ts";
import type { RuleSource } from "../../source/format.ts";
import type { Explanation, ProvidedStep, RuleStep, ShareTrace, SplitTrace, Step, SubjectTrace } from "./explanation.ts";
import { isPrivate, masked, type Tracing, traceCondition, type WhereListed } from "./trace-condition.ts";

export interface ExplainOptions extends AskOptions {
  /** Tells the file and line of an id in the list of a cohort, such as "lists/pilot-captains.csv:3". */
  readonly whereListed?: WhereListed | undefined;
}

/**
 * Judges a flag and tells the whole way: each step up to the one that decided, each test and what it saw.
 * Undefined if nobody defines the flag.
 *
 * @example formatExplanation(explain(flags, "zone-fares", { trips: 140 }, { at: Date.now() })!)
 */
export function explain(
  flags: FlagSet,
  name: string,
  context: unknown,
  options: ExplainOptions = {},
): Explanation | undefined {
  const flag = flags.flag(name);
  if (!flag) return undefined;
  const clock = clockOf(options.at);
  const question = new Question(flags.harmless(context), clock, options.overrides);
  const tracing: Tracing = { flags, question, original: context, whereListed: options.whereListed };
  const outcome = flag.judge(question);
  const at = options.at === undefined ? undefined : isoInstant(question.at);
  const steps = stepsOf(flag.definition, outcome, tracing);
  return { ...outcome.verdict(flags.revision), environment: flags.environment, at, steps };
}

function isoInstant(epoch: number): string | undefined {
  return isShowable(epoch) ? new Date(epoch).toISOString() : undefined;
}

function stepsOf(definition: FlagDefinition, outcome: Outcome, tracing: Tracing): Step[] {
  if (outcome.cause === "override") {
    return [{ step: "override", by: outcome.overriddenBy ?? "code", value: outcome.variant ?? outcome.value }];
  }
  if (outcome.cause === "suspended") {
    const { since, who, note } = tracing.flags.definitions.suspensions.get(definition.name) ?? {};
    return [{ step: "suspended", since, who, note }];
  }
  const effective = effectiveFlag(definition, tracing.flags.environment);
  const provided = providedSteps(effective, tracing);
  if (outcome.cause === "withheld") return provided;
  return [...provided, ...ruleSteps(definition, effective, outcome, tracing), ...otherwiseStep(outcome)];
}

function providedSteps({ provided }: EffectiveFlag, tracing: Tracing): ProvidedStep[] {
  const steps: ProvidedStep[] = [];
  for (const text of provided) {
    const condition = traceCondition(text, tracing);
    steps.push({ step: "provided", holds: condition.answer, condition });
    if (condition.answer !== "true") break;
  }
  return steps;
}

function ruleSteps(
  definition: FlagDefinition,
  { rules }: EffectiveFlag,
  outcome: Outcome,
  tracing: Tracing,
): RuleStep[] {
  const asked = outcome.cause === "rule" ? rules.slice(0, outcome.rule! + 1) : rules;
  return asked.map((rule, i) => ruleStep(definition, rule, i, outcome, tracing));
}

function ruleStep(
  definition: FlagDefinition,
  rule: RuleSource,
  index: number,
  outcome: Outcome,
  tracing: Tracing,
): RuleStep {
  const condition = rule.when === undefined ? undefined : traceCondition(rule.when, tracing);
  const division = divisionOf(definition, rule);
  const applies = condition === undefined || condition.answer === "true";
  const zone = typeof rule.share === "object" ? (rule.share.zone ?? definition.defaults.zone) : undefined;
  return {
    step: "rule",
    rule: index,
    name: rule.name,
    matched: outcome.cause === "rule" && outcome.rule === index,
    condition,
    share: division?.share && traceShare(division, division.share, zone, tracing),
    split: applies && division?.split ? traceSplit(division, division.split, tracing) : undefined,
  };
}

function otherwiseStep(outcome: Outcome): Step[] {
  return outcome.cause === "otherwise" ? [{ step: "otherwise", value: outcome.variant ?? outcome.value }] : [];
}

function traceSubject({ by, salt }: Division, bucket: Bucket, tracing: Tracing): SubjectTrace {
  const path = printPath(by);
  const id = idText(readPath(tracing.question.context, by));
  if (id === undefined) return { by: path, salt };
  return { by: path, salt, id: isPrivate(path, tracing) ? masked : id, position: bucket.position(id) };
}

function traceShare(division: Division, share: Share, zone: string | undefined, tracing: Tracing): ShareTrace {
  const subject = traceSubject(division, share.bucket, tracing);
  const { position } = subject;
  const percent = share.rises ? percentAt(share.steps, tracing.question.at) : share.steps[0]!.percent;
  const inside = position !== undefined && position < percent / 100;
  if (!share.rises) return { ...subject, percent, inside };
  const reached = position === undefined ? undefined : share.steps.find((step) => position < step.percent / 100);
  return {
    ...subject,
    percent,
    inside,
    rising: share.steps.map((step) => ({ percent: step.percent, from: isoInstant(step.from)! })),
    zone,
    reaches: reached && isoInstant(reached.from),
  };
}

function traceSplit(division: Division, split: Split, tracing: Tracing): SplitTrace {
  const subject = traceSubject(division, split.bucket, tracing);
  const parts = split.weights.map((weight, i) => `${weight} ${split.variants[i]}`);
  if (subject.position === undefined) return { ...subject, parts };
  return { ...subject, parts, variant: split.variants[splitIndex(split.weights, split.total, subject.position)] };
}
