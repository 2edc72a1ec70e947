import type { AdjustmentSource, FlagEnvironmentSource, FlagSource, RuleSource, Walk } from "../source/index.ts";
import { nearest, sentenceList } from "../values/index.ts";

type CheckRule = (adjusted: Pick<RuleSource, "give" | "share" | "split">, by: string | undefined) => void;

/** What an environment adjusts: each name is that of exactly one rule of the flag, and what it puts in is sound. */
export function checkAdjustments(
  { rules = [] }: FlagSource,
  { adjust = {} }: FlagEnvironmentSource,
  walk: Walk,
  check: CheckRule,
): void {
  for (const [name, adjustment] of Object.entries(adjust)) {
    walk.path.push("adjust", name);
    const named = rules.filter((rule) => rule.name === name);
    if (named.length === 1) check(adjusted(adjustment), named[0]!.by);
    else reportName(name, named.length, rules, walk);
    walk.path.length -= 2;
  }
}

function adjusted({ share, give, split }: AdjustmentSource): Pick<RuleSource, "give" | "share" | "split"> {
  return {
    ...(share === undefined ? {} : { share }),
    ...(give === undefined ? {} : { give }),
    ...(split === undefined ? {} : { split }),
  };
}

function reportName(name: string, count: number, rules: readonly RuleSource[], walk: Walk): void {
  const names = rules.flatMap((rule) => rule.name ?? []);
  const near = count === 0 ? nearest(name, names) : undefined;
  walk.reportKey("unknown-rule", {
    message:
      count === 0
        ? `No rule of the flag has the name “${name}”.`
        : `${count} rules of the flag have the name “${name}”.`,
    found: name,
    expected: expectedName(count, names),
    help: near && `did you mean “${near}”?`,
  });
}

function expectedName(count: number, names: readonly string[]): string {
  if (count > 1) return "a name that one rule alone has";
  return names.length > 0 ? `one of ${sentenceList(names, "or")}` : "a rule of the flag with a name";
}
