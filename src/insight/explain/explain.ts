import { isShowable } from "../../calendar/index.ts";
import {
  type AskOptions,
  type CompiledFlag,
  clockOf,
  type FlagSet,
  idText,
  type Met,
  type Outcome,
  Question,
  type Recorder,
  readPath,
} from "../../judge/index.ts";
import { printPath } from "../../language/index.ts";
import { type Division, isInside, type Rule, rangeAt, type Share, type Split, stopIn } from "../../model/index.ts";
import { type Answer, TRUE } from "../../values/index.ts";
import type { Explanation, ProvidedStep, RuleStep, ShareTrace, SplitTrace, Step, SubjectTrace } from "./explanation.ts";
import { isHidden, isPrivate, masked, type Tracing, traceCondition, type WhereListed } from "./trace-condition.ts";

/** How a verdict is explained. */
export interface ExplainOptions extends AskOptions {
  /** Tells the file and line of an id in the list of a cohort, such as "lists/pilot-captains.csv:3". */
  readonly whereListed?: WhereListed | undefined;
  /**
   * True tells the positions, times and list lines of private ids as well. They are left out otherwise: 32 bits of a hash
   * are enough to find out an address from a list of addresses.
   */
  readonly reveal?: boolean | undefined;
}

/**
 * Judges a flag and tells the whole way: each step up to the one that decided, each test and what it saw. It is the
 * record of the decision itself. Undefined if nobody defines the flag.
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
  const question = new Question(flags.harmless(context, name), clockOf(options.at), options.overrides);
  const { whereListed, reveal = false } = options;
  const tracing: Tracing = { flags, question, original: context, whereListed, reveal, told: new Map() };
  const recording = new Recording();
  const outcome = flag.decide(question, recording);
  const at = options.at === undefined ? undefined : isoInstant(question.at);
  const steps = stepsOf(flag, outcome, recording, tracing);
  return { ...outcome.verdict(flags.revision), environment: flags.environment, at, steps };
}

/** What a decision went through, in order. */
class Recording implements Recorder {
  readonly answers: Answer[] = [];
  readonly asked: { readonly rule: Rule; readonly met: Met }[] = [];

  provided(_index: number, answer: Answer): void {
    this.answers.push(answer);
  }

  rule({ rule }: { readonly rule: Rule }, met: Met): void {
    this.asked.push({ rule, met });
  }
}

function isoInstant(epoch: number): string | undefined {
  return isShowable(epoch) ? new Date(epoch).toISOString() : undefined;
}

function stepsOf(flag: CompiledFlag, outcome: Outcome, recording: Recording, tracing: Tracing): Step[] {
  if (outcome.cause === "override") {
    return [{ step: "override", by: outcome.overriddenBy ?? "code", value: outcome.variant ?? outcome.value }];
  }
  if (outcome.cause === "suspended") {
    const { definitions, environment } = tracing.flags;
    const suspension = definitions.suspensions.get(outcome.flag);
    const { since, who, note } = (suspension && stopIn(suspension, environment)) ?? {};
    return [{ step: "suspended", since, who, note }];
  }
  const otherwise: Step[] =
    outcome.cause === "otherwise" ? [{ step: "otherwise", value: outcome.variant ?? outcome.value }] : [];
  return [
    ...recording.answers.map((_, i) => providedStep(flag.here.provided[i]!, tracing)),
    ...recording.asked.map(({ rule, met }) => ruleStep(rule, met, tracing)),
    ...otherwise,
  ];
}

function providedStep(text: string, tracing: Tracing): ProvidedStep {
  const condition = traceCondition(text, tracing);
  return { step: "provided", holds: condition.answer, condition };
}

function ruleStep({ number, name, when, division }: Rule, met: Met, tracing: Tracing): RuleStep {
  const share = division?.share && traceShare(division, division.share, tracing);
  const runs = met.answer === TRUE && met.inside;
  return {
    step: "rule",
    rule: number,
    name,
    matched: met.outcome !== undefined,
    condition: when === undefined ? undefined : traceCondition(when, tracing),
    share,
    split:
      division?.split && (runs || met.id === undefined) ? traceSplit(division, division.split, tracing) : undefined,
  };
}

/** The id that a rule divides by, as it may be shown, and as it is. */
function subjectOf({ by, salt }: Division, tracing: Tracing): { shown: SubjectTrace; id: string | undefined } {
  const path = printPath(by);
  const id = idText(readPath(tracing.question.context, by));
  if (id === undefined) return { shown: { by: path, salt }, id };
  return { shown: { by: path, salt, id: isPrivate(path, tracing) ? masked : id }, id };
}

function traceShare(division: Division, share: Share, tracing: Tracing): ShareTrace {
  const { shown, id } = subjectOf(division, tracing);
  const position = id === undefined ? undefined : share.bucket.position(id);
  const { low, high } = share.rises ? rangeAt(share.steps, tracing.question.at) : share.steps[0]!;
  const inside = position !== undefined && isInside(position, { low, high });
  const trace: ShareTrace = { ...shown, ...(isHidden(shown.by, tracing) ? {} : { position }), low, high, inside };
  if (!share.rises) return trace;
  const { at } = tracing.question;
  const reached = share.steps.find((step) => step.from > at && position !== undefined && isInside(position, step));
  return {
    ...trace,
    rising: share.steps.map((step) => ({ percent: step.high, from: isoInstant(step.from)! })),
    zone: share.zone,
    reaches: inside || reached === undefined ? undefined : isoInstant(reached.from),
  };
}

function traceSplit(division: Division, { race, entrants }: Split, tracing: Tracing): SplitTrace {
  const { shown, id } = subjectOf(division, tracing);
  const parts = entrants.map((each) => `${each.parts} ${each.variant}`);
  if (id === undefined) return { ...shown, parts };
  const times = race.times(id).map(({ variant, time }) => ({ variant, time }));
  return { ...shown, parts, variant: race.winner(id), ...(isHidden(shown.by, tracing) ? {} : { times }) };
}
