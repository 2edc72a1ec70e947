import { type Condition, operators, printPath } from "../language/index.ts";
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
    if (condition) askIn(condition, ask);
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

function askIn(condition: Condition, ask: (path: string, asText: boolean) => void): void {
  switch (condition.kind) {
    case "and":
    case "or":
      for (const part of condition.parts) askIn(part, ask);
      return;
    case "not":
      return askIn(condition.part, ask);
    case "test": {
      const { operand, operator, literal } = condition;
      if (operand.kind !== "path") return;
      const classes = operators[operator].decides(literal);
      ask(printPath(operand.path), classes !== "all" && classes.includes("text"));
    }
  }
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
