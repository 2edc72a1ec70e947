import { ToolError } from "../files/index.ts";
import type { RuleSource } from "../source/index.ts";
import { nearest, sentenceList } from "../values/index.ts";

/** The index of the rule that is meant: by its name or number, or the only one that fits. */
export function indexOfRule(
  rules: readonly RuleSource[],
  flag: string,
  rule: string | undefined,
  share: string | undefined,
): number {
  if (rule !== undefined) return indexByName(rule, rules);
  const fitting = rules.flatMap((each, i) => (share === undefined || each.share !== undefined ? [i] : []));
  if (fitting.length === 1) return fitting[0]!;
  const choices = rules.map((_, i) => ruleCalledIn(rules, i));
  throw new ToolError(
    `${flag} has ${rules.length} rules; say which one is meant.`,
    `--rule and a name or number: ${sentenceList(choices, "or")}`,
  );
}

function indexByName(rule: string, rules: readonly RuleSource[]): number {
  const named = rules.flatMap(({ name }, i) => (name === rule ? [i] : []));
  if (named.length > 1) {
    const numbers = named.map((index) => String(index + 1));
    throw new ToolError(
      `“${rule}” is the name of ${named.length} rules: ${sentenceList(numbers)}.`,
      `write the number: --rule ${sentenceList(numbers, "or")}`,
    );
  }
  if (named.length === 1) return named[0]!;
  const number = /^[0-9]+$/.test(rule) ? Number(rule) - 1 : -1;
  if (number >= 0 && number < rules.length) return number;
  const names = rules.flatMap(({ name }) => name ?? []);
  const near = nearest(rule, names) ?? names.find((name) => name.includes(rule));
  throw new ToolError(
    `There is no rule “${rule}”.`,
    near ? `did you mean “${near}”?` : `write a number from 1 to ${rules.length}`,
  );
}

export function ruleCalledIn(rules: readonly RuleSource[], index: number): string {
  const name = rules[index]!.name;
  return name === undefined ? `${index + 1}` : `${index + 1} (“${name}”)`;
}
