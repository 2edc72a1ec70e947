import { FlagSet } from "../judge/index.ts";
import { DefinitionSet, type Definitions, type FlagDefinition, ruleCalled } from "../model/index.ts";
import { at, type Place, type Problems } from "../problems/index.ts";
import type { ExampleSource } from "../source/index.ts";
import { parseTime, sameData, show } from "../values/index.ts";

/** Runs every `for-instance` example. Suspensions and overrides do not count. */
export function runExamples(definitions: Definitions, problems: Problems): void {
  const unsuspended = new DefinitionSet(definitions).withSuspensions(new Map());
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
    if (example.at === undefined && running.setFor(environment).graph.dependsOnTime(flag.name, environment)) {
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
  const { rule, ruleName: name } = verdict;
  const by = rule === undefined ? verdict.cause : ruleCalled({ number: rule, name });
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
