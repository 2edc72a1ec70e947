import { FlagSet, type Verdict } from "../judge/index.ts";
import { DefinitionSet, type Definitions, type FlagDefinition, ruleCalled } from "../model/index.ts";
import { at, type Place, type Problems } from "../problems/index.ts";
import type { ExampleSource } from "../source/index.ts";
import { parseTime, sameData, show } from "../values/index.ts";

/** An example of a flag, held against what the flag gives. */
export interface TriedExample {
  /** From 0, in the order of the file. */
  readonly index: number;
  readonly example: ExampleSource;
  /** The first environment in which it does not hold; left out where it holds in every one that it is for. */
  readonly fails?: ExampleFault;
}

/** Why an example does not hold. */
export interface ExampleFault {
  readonly environment: string | undefined;
  /** The value or the variant that is given; left out where the answer depends on an instant that is not said. */
  readonly given?: unknown;
  /** What gives it: `rule 2 “crew”`, `otherwise`, `provided`. */
  readonly by?: string;
}

/** Tries the `for-instance` examples of flags. Suspensions and overrides do not count. */
export class Examples {
  readonly #definitions: Definitions;
  readonly #sets = new Map<string | undefined, FlagSet>();

  constructor(definitions: Definitions) {
    this.#definitions = new DefinitionSet(definitions).withSuspensions(new Map());
  }

  /** Every example of a flag, in the order of the file. */
  of(flag: FlagDefinition): readonly TriedExample[] {
    return (flag.source["for-instance"] ?? []).map((example, index) => this.one(flag, example, index));
  }

  /** One of them, which stands at an index of the flag's examples. */
  one(flag: FlagDefinition, example: ExampleSource, index: number): TriedExample {
    const fails = this.#faultOf(flag, example);
    return { index, example, ...(fails ? { fails } : {}) };
  }

  #faultOf(flag: FlagDefinition, example: ExampleSource): ExampleFault | undefined {
    for (const environment of this.#environmentsOf(example)) {
      const set = this.#setFor(environment);
      if (example.at === undefined && set.graph.dependsOnTime(flag.name, environment)) return { environment };
      const time = example.at === undefined ? undefined : parseTime(example.at);
      const verdict = set.verdict(flag.name, example.as, time === undefined ? {} : { at: time })!;
      const given = flag.variants ? verdict.variant : verdict.value;
      if (sameData(given, example.gives)) continue;
      return { environment, given, by: keyBehind(verdict) };
    }
    return undefined;
  }

  #environmentsOf(example: ExampleSource): readonly (string | undefined)[] {
    if (example.in !== undefined) return [example.in];
    const { environments } = this.#definitions;
    return environments.size > 0 ? [...environments.keys()] : [undefined];
  }

  #setFor(environment: string | undefined): FlagSet {
    const known = this.#sets.get(environment) ?? new FlagSet(this.#definitions, environment);
    this.#sets.set(environment, known);
    return known;
  }
}

/** The key of the flag that decided; overrides and suspensions do not count here. */
function keyBehind({ rule: number, ruleName: name, cause }: Verdict): string {
  if (number !== undefined) return ruleCalled({ number, name });
  return cause === "withheld" ? "provided" : "otherwise";
}

/** Reports every `for-instance` example that does not hold. */
export function runExamples(definitions: Definitions, problems: Problems): void {
  const examples = new Examples(definitions);
  for (const flag of definitions.flags.values()) {
    for (const tried of examples.of(flag)) {
      if (tried.fails) report(tried, tried.fails, at(flag.place, "for-instance", tried.index), problems);
    }
  }
}

function report({ example }: TriedExample, fault: ExampleFault, place: Place, problems: Problems): void {
  const where = fault.environment === undefined ? "" : ` in ${fault.environment}`;
  if (!("given" in fault)) {
    problems.report("example-needs-time", place, {
      message: `The answer depends on time${where}, and this example says no instant.`,
      expected: "at: an instant with Z or an offset",
      help: "add “at: 2026-11-30T12:00Z”, or the instant that is meant",
    });
    return;
  }
  problems.report("example-fails", at(place, "gives"), {
    message: `This example gives ${show(fault.given)}${where}, by ${fault.by}.`,
    found: show(fault.given),
    expected: show(example.gives),
  });
}
