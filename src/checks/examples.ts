import { FlagSet } from "../judge/flag-set.ts";
import { conditionsIn, effectiveFlag } from "../model/effective.ts";
import { nameOf } from "../model/references.ts";
import type { Definitions, FlagDefinition } from "../model/types.ts";
import { at, type Place, type Problems } from "../problems/problem.ts";
import type { ExampleSource } from "../source/format.ts";
import { sameData, show } from "../values/data.ts";
import { parseTime } from "../values/time.ts";

/** Runs every `for-instance` example. Suspensions and overrides do not count. */
export function runExamples(definitions: Definitions, problems: Problems): void {
  const unsuspended: Definitions = {
    environments: definitions.environments,
    attributes: definitions.attributes,
    cohorts: definitions.cohorts,
    windows: definitions.windows,
    flags: definitions.flags,
    conditions: definitions.conditions,
    suspensions: new Map(),
    get revision() {
      return definitions.revision;
    },
  };
  const sets = new Map<string | undefined, FlagSet>();
  const setFor = (environment: string | undefined) => {
    const known = sets.get(environment) ?? new FlagSet(unsuspended, environment);
    sets.set(environment, known);
    return known;
  };
  for (const flag of definitions.flags.values()) {
    for (const [i, example] of (flag.source["for-instance"] ?? []).entries()) {
      runExample(flag, example, at(flag.place, "for-instance", i), { definitions, setFor, problems });
    }
  }
}

interface Running {
  readonly definitions: Definitions;
  readonly setFor: (environment: string | undefined) => FlagSet;
  readonly problems: Problems;
}

function runExample(flag: FlagDefinition, example: ExampleSource, place: Place, running: Running): void {
  for (const environment of environmentsOf(example, running.definitions)) {
    if (example.at === undefined && dependsOnTime(flag, environment, running.definitions)) {
      reportNoTime(environment, place, running.problems);
      return;
    }
    if (!gives(flag, example, environment, place, running)) return;
  }
}

function environmentsOf(example: ExampleSource, definitions: Definitions): readonly (string | undefined)[] {
  if (example.in !== undefined) return [example.in];
  return definitions.environments.size > 0 ? [...definitions.environments.keys()] : [undefined];
}

function gives(
  flag: FlagDefinition,
  example: ExampleSource,
  environment: string | undefined,
  place: Place,
  running: Running,
): boolean {
  const set = running.setFor(environment);
  const time = example.at === undefined ? undefined : parseTime(example.at);
  const verdict = set.verdict(flag.name, example.as, time === undefined ? {} : { at: time })!;
  const given = flag.variants ? verdict.variant : verdict.value;
  if (sameData(given, example.gives)) return true;
  const name = verdict.rule === undefined ? undefined : set.ruleName(flag.name, verdict.rule);
  const rule = verdict.rule === undefined ? undefined : `rule ${verdict.rule + 1}`;
  const by = rule === undefined ? verdict.cause : name === undefined ? rule : `${rule}, “${name}”`;
  running.problems.report("example-fails", at(place, "gives"), {
    message: `This example gives ${show(given)}${environment === undefined ? "" : ` in ${environment}`}, by ${by}.`,
    found: show(given),
    expected: show(example.gives),
  });
  return false;
}

function reportNoTime(environment: string | undefined, place: Place, problems: Problems): void {
  problems.report("example-needs-time", place, {
    message: `The answer depends on time${environment === undefined ? "" : ` in ${environment}`}, and this example says no instant.`,
    expected: "at: an instant with Z or an offset",
    help: "add “at: 2026-11-30T12:00Z”, or the instant that is meant",
  });
}

/** Can the answer of a flag change with time alone: by a window or a rising share, its own or one that it refers to? */
export function dependsOnTime(
  flag: FlagDefinition,
  environment: string | undefined,
  definitions: Definitions,
): boolean {
  const open = [`flag:${flag.name}`];
  const seen = new Set<string>();
  for (let node = open.pop(); node !== undefined; node = open.pop()) {
    if (node.startsWith("window:")) return true;
    if (seen.has(node)) continue;
    seen.add(node);
    const inner = node.startsWith("flag:") ? definitions.flags.get(nameOf(node)) : undefined;
    const effective = inner && effectiveFlag(inner, environment);
    if (effective?.rules.some(({ share }) => typeof share === "object")) return true;
    const conditions = effective ? conditionsIn(effective) : conditionOfCohort(nameOf(node), definitions);
    open.push(...conditions.flatMap((text) => definitions.conditions.references(text)));
  }
  return false;
}

function conditionOfCohort(name: string, { cohorts }: Definitions): readonly string[] {
  const cohort = cohorts.get(name);
  return cohort?.kind === "condition" ? [cohort.when] : [];
}
