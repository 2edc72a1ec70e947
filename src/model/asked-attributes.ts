import { operators, printPath, testsOf } from "../language/index.ts";
import { eachCondition } from "./rules.ts";
import type { Definitions } from "./types.ts";

/** What a set asks of its attributes, by their paths: whether any test of one asks for a text. */
export type AskedAttributes = ReadonlyMap<string, { readonly asText: boolean }>;

/** The attributes that conditions, shares, splits and lists of a set read, declared or not. */
export function askedAttributes(definitions: Definitions): AskedAttributes {
  const asked = new Map<string, { asText: boolean }>();
  const ask = (path: string, asText: boolean) => {
    const known = asked.get(path);
    if (known) known.asText ||= asText;
    else asked.set(path, { asText });
  };
  const readCondition = (text: string) => {
    const { condition } = definitions.conditions.get(text);
    for (const test of condition ? testsOf(condition) : []) {
      if (test.kind !== "test" || test.operand.kind !== "path") continue;
      const classes = operators[test.operator].decides(test.literal);
      ask(printPath(test.operand.path), classes !== "all" && classes.includes("text"));
    }
  };
  for (const name of definitions.attributes.keys()) ask(name, false);
  for (const flag of definitions.flags.values()) {
    eachCondition(flag, readCondition);
    for (const by of divisorsOf(flag.source)) ask(by, false);
    if (flag.defaults.by !== undefined) ask(flag.defaults.by, false);
  }
  for (const cohort of definitions.cohorts.values()) {
    if (cohort.kind === "condition") readCondition(cohort.when);
    else ask(printPath(cohort.kind === "list" ? cohort.of : cohort.by), false);
  }
  return asked;
}

interface Divided {
  readonly by?: string | undefined;
  readonly rules?: readonly { readonly by?: string | undefined }[] | undefined;
  readonly environments?: Readonly<Record<string, object>> | undefined;
}

function divisorsOf({ by, rules = [], environments = {} }: Divided): string[] {
  const inside = Object.values(environments).flatMap((each) => divisorsOf(each));
  return [
    ...(by === undefined ? [] : [by]),
    ...rules.flatMap((rule) => (rule.by === undefined ? [] : [rule.by])),
    ...inside,
  ];
}
