import { parseSplitPart } from "../buckets/split.ts";
import { showInstant } from "../calendar/instant.ts";
import { placeOf, visitConditions, visitRules } from "../model/effective.ts";
import { risingSteps } from "../model/read-rising.ts";
import type { Definitions, FlagDefinition } from "../model/types.ts";
import { at, type Problems } from "../problems/problem.ts";
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
  visitConditions(flag, (text, environment, rule) => {
    if (environment === undefined && sound.has(text)) return;
    const before = problems.all.length;
    const place = placeOf(flag, { environment, rule }, rule < 0 ? "provided" : "when");
    const assumptions = environment === undefined ? {} : { environments: [environment] };
    analyseCondition(text, place, { definitions, problems, assumptions });
    if (environment === undefined && problems.all.length === before) sound.add(text);
  });
}

function analyseFlag(flag: FlagDefinition, analysis: Analysis): void {
  const { definitions, problems, subjects, now } = analysis;
  analyseConditions(flag, analysis);
  for (const list of ruleListsOf(flag, definitions)) analyseRules(list, definitions, subjects, problems);
  visitRules(flag, ({ share }, environment, rule) => {
    if (typeof share !== "object") return;
    const last = risingSteps(share, flag.defaults).at(-1)!;
    if (last.from > now) return;
    problems.report("rising-complete", placeOf(flag, { environment, rule }, "share"), {
      message: `This rising share reached its last step, ${last.percent}%, on ${showInstant(last.from, share.zone ?? flag.defaults.zone)}.`,
      help: last.percent === 100 ? "take the share out, or the flag" : `write share: ${last.percent}%`,
    });
  });
  warnOfUnusedVariants(flag, problems);
}

function warnOfUnusedVariants(flag: FlagDefinition, problems: Problems): void {
  if (!flag.variants) return;
  const { source } = flag;
  const used = new Set<unknown>([source.safe, source.otherwise]);
  for (const { otherwise } of Object.values(source.environments ?? {})) used.add(otherwise);
  visitRules(flag, ({ give, split }) => {
    used.add(give);
    for (const part of split ?? []) used.add(parseSplitPart(part)?.variant);
  });
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
  const used = new Set<string>();
  const note = (text: string) => {
    for (const reference of definitions.conditions.references(text)) used.add(reference);
  };
  for (const cohort of definitions.cohorts.values()) if (cohort.kind === "condition") note(cohort.when);
  for (const flag of definitions.flags.values()) visitConditions(flag, note);
  for (const kind of ["cohort", "window"] as const) {
    for (const { name, place } of definitions[`${kind}s`].values()) {
      if (used.has(`${kind}:${name}`)) continue;
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
