import { showInstant } from "../calendar/index.ts";
import {
  conditionsOf,
  type Definitions,
  type FlagDefinition,
  givenBy,
  type NodeKey,
  nodeKey,
  placeOfCondition,
  placeOfRule,
  writtenRules,
} from "../model/index.ts";
import { at, type Problems } from "../problems/index.ts";
import { showRange } from "../values/index.ts";
import { analyseCondition } from "./conditions.ts";
import { analyseRules, ruleListsOf } from "./rules.ts";
import { Subjects } from "./subjects.ts";

interface Analysis {
  readonly definitions: Definitions;
  readonly problems: Problems;
  /** Epoch milliseconds. */
  readonly now: number;
  readonly subjects: Subjects;
  /** Conditions of which there is nothing to say where all environments are meant. */
  readonly sound: Set<string>;
}

/** Everything that is suspicious without being wrong. Each warning says why it must be so; what cannot be proved is not said. */
export function analyse(definitions: Definitions, now: number, problems: Problems): void {
  for (const cohort of definitions.cohorts.values()) {
    if (cohort.kind !== "condition") continue;
    analyseCondition(cohort.when, at(cohort.place, "when"), { definitions, problems, assumptions: {} });
  }
  const analysis: Analysis = { definitions, problems, now, subjects: new Subjects(definitions), sound: new Set() };
  for (const flag of definitions.flags.values()) analyseFlag(flag, analysis);
  warnOfUnused(definitions, problems);
  warnOfPastWindows(definitions, now, problems);
}

function analyseConditions(flag: FlagDefinition, { definitions, problems, sound }: Analysis): void {
  for (const written of conditionsOf(flag)) {
    const { text, environment } = written;
    if (environment === undefined && sound.has(text)) continue;
    const before = problems.count;
    const assumptions = environment === undefined ? {} : { environments: [environment] };
    analyseCondition(text, placeOfCondition(flag, written), { definitions, problems, assumptions });
    if (environment === undefined && problems.count === before) sound.add(text);
  }
}

function analyseFlag(flag: FlagDefinition, analysis: Analysis): void {
  const { definitions, problems, subjects, now } = analysis;
  analyseConditions(flag, analysis);
  for (const list of ruleListsOf(flag, definitions)) analyseRules(list, definitions, subjects, problems);
  warnOfComplete(flag, now, problems);
  warnOfUnusedVariants(flag, problems);
}

/** A rule that is adjusted elsewhere and rises there as it does of itself is told of once. */
function warnOfComplete(flag: FlagDefinition, now: number, problems: Problems): void {
  for (const { environment, rules } of writtenRules(flag)) {
    for (const rule of rules) {
      const share = rule.division?.share;
      const last = share?.rises ? share.steps.at(-1) : undefined;
      if (!last || last.from > now || !isWrittenHere(rule.adjusted?.by, environment)) continue;
      problems.report("rising-complete", placeOfRule(flag, rule, "share"), {
        message: `This rising share reached its last step, ${showRange(last)}, on ${showInstant(last.from, share!.zone)}.`,
        help: last.high === 100 ? "take the share out, or the flag" : `write share: ${showRange(last)}`,
      });
    }
  }
}

/** Is the share that of the list in which the rule is found, or of the adjustment itself? */
function isWrittenHere(adjusted: { readonly share?: unknown } | undefined, environment: string | undefined): boolean {
  return environment === undefined || adjusted === undefined || adjusted.share !== undefined;
}

function warnOfUnusedVariants(flag: FlagDefinition, problems: Problems): void {
  if (!flag.variants) return;
  const used = new Set(givenBy(flag));
  for (const { rules } of writtenRules(flag)) {
    for (const { division } of rules) for (const { variant } of division?.split?.entrants ?? []) used.add(variant);
  }
  for (const name of flag.variants.keys()) {
    if (used.has(name)) continue;
    problems.report(
      "unused-variant",
      { ...at(flag.place, "variants", name), part: "key" },
      {
        message: `Nothing gives the variant “${name}”: no rule, split, otherwise or safe value names it.`,
        help: "use it or take it out",
      },
    );
  }
}

function warnOfUnused(definitions: Definitions, problems: Problems): void {
  const used = new Set<NodeKey>();
  const note = (text: string) => {
    for (const reference of definitions.conditions.references(text)) used.add(reference);
  };
  for (const cohort of definitions.cohorts.values()) if (cohort.kind === "condition") note(cohort.when);
  for (const flag of definitions.flags.values()) for (const { text } of conditionsOf(flag)) note(text);
  for (const kind of ["cohort", "window"] as const) {
    for (const { name, place } of definitions[`${kind}s`].values()) {
      if (used.has(nodeKey(kind, name))) continue;
      problems.report(
        `unused-${kind}`,
        { ...place, part: "key" },
        {
          message: `No condition names the ${kind} “${name}”.`,
          help: "use it or take it out",
        },
      );
    }
  }
}

function warnOfPastWindows(definitions: Definitions, now: number, problems: Problems): void {
  for (const { name, place, window } of definitions.windows.values()) {
    const { until, zone } = window.parts;
    if (until === undefined || until > now) continue;
    problems.report(
      "window-over",
      { ...place, part: "key" },
      {
        message: `The window “${name}” was shut for good on ${showInstant(until, zone)}.`,
        help: "remove what uses it, and the window",
      },
    );
  }
}
