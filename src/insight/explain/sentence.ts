import { showInstant } from "../../calendar/instant.ts";
import { percentAt } from "../../judge/rule.ts";
import { printLiteral, printOperand } from "../../language/print.ts";
import type { Condition, Test } from "../../language/tree.ts";
import { effectiveFlag } from "../../model/effective.ts";
import { risingSteps } from "../../model/read-rising.ts";
import type { Definitions, FlagDefinition } from "../../model/types.ts";
import type { RuleSource } from "../../source/format.ts";
import { show } from "../../values/data.ts";
import { sentenceList } from "../../values/names.ts";
import { parsePercent, showPercent } from "../../values/percent.ts";
import { printable } from "../../values/printable.ts";

/**
 * Who gets what and when, in a sentence that needs no knowledge of the format.
 *
 * @param at the instant from which rising shares are told, in epoch milliseconds
 * @example describeFlag(definitions, "storm-mode", "production", Date.now()) // "false for everyone."
 */
export function describeFlag(
  definitions: Definitions,
  name: string,
  environment: string | undefined,
  at: number,
): string | undefined {
  const flag = definitions.flags.get(name);
  return flag && new Sentence(definitions, flag, environment, at).whole();
}

class Sentence {
  readonly #definitions: Definitions;
  readonly #flag: FlagDefinition;
  readonly #environment: string | undefined;
  readonly #at: number;

  constructor(definitions: Definitions, flag: FlagDefinition, environment: string | undefined, at: number) {
    this.#definitions = definitions;
    this.#flag = flag;
    this.#environment = environment;
    this.#at = at;
  }

  whole(): string {
    const { provided, rules, otherwise } = effectiveFlag(this.#flag, this.#environment);
    const safe = value(this.#flag.source.safe);
    if (this.#isSuspended()) return `${safe} for everyone, because it is suspended.`;
    const parts = [...this.#rules(rules), `${value(otherwise)} for everyone${rules.length > 0 ? " else" : ""}`];
    const said = `${parts.join("; ")}.`;
    if (provided.length === 0) return said;
    const conditions = provided.map((text) => this.#condition(text)).join(", and ");
    return `Only where ${conditions}: ${said.slice(0, -1)}; where not, ${safe}.`;
  }

  #isSuspended(): boolean {
    const suspension = this.#definitions.suspensions.get(this.#flag.name);
    if (!suspension) return false;
    return suspension.in === undefined || suspension.in.includes(this.#environment ?? "");
  }

  /** Rules that give the same, one after the other, are told in one breath. */
  #rules(rules: readonly RuleSource[]): string[] {
    const parts: { given: string; whom: string[] }[] = [];
    for (const rule of rules) {
      const given = rule.split ? this.#split(rule.split) : value(rule.give);
      const last = parts.at(-1);
      if (last?.given === given) last.whom.push(this.#whom(rule));
      else parts.push({ given, whom: [this.#whom(rule)] });
    }
    return parts.map(({ given, whom }) => `${given} for ${whom.join(", for ")}`);
  }

  #split(split: readonly string[]): string {
    const total = split.reduce((sum, part) => sum + Number.parseFloat(part), 0);
    const shares = split.map((part) => {
      const [parts, variant] = part.split(/ +/) as [string, string];
      return `${variant} (${showPercent((Number(parts) / total) * 100)})`;
    });
    return sentenceList(shares, "or");
  }

  #whom(rule: RuleSource): string {
    const all = rule.when === undefined ? "everyone" : `those where ${this.#condition(rule.when)}`;
    if (rule.share === undefined) return all;
    if (typeof rule.share === "string") return `${showPercent(parsePercent(rule.share)!)} of ${all}`;
    const steps = risingSteps(rule.share, this.#flag.defaults);
    const zone = rule.share.zone ?? this.#flag.defaults.zone;
    const later = steps
      .filter((step) => step.from > this.#at)
      .map((step) => `${showPercent(step.percent)} from ${showInstant(step.from, zone)}`);
    const now = `${showPercent(percentAt(steps, this.#at))} of ${all}`;
    return later.length === 0 ? now : `${now} (${later.join(", ")})`;
  }

  #condition(text: string): string {
    const { condition } = this.#definitions.conditions.get(text);
    return condition ? printable(describeCondition(condition)) : text;
  }
}

function value(given: unknown): string {
  return typeof given === "string" ? printable(given) : printable(show(given, 40));
}

/** A condition in words. */
export function describeCondition(condition: Condition): string {
  switch (condition.kind) {
    case "and":
    case "or":
      return condition.parts
        .map((part) =>
          part.kind === "and" || part.kind === "or" ? `(${describeCondition(part)})` : describeCondition(part),
        )
        .join(` ${condition.kind} `);
    case "not":
      return describeNegation(condition.part);
    default:
      return describeTest(condition, false);
  }
}

function describeNegation(part: Condition): string {
  switch (part.kind) {
    case "and":
    case "or":
      return `not (${describeCondition(part)})`;
    case "not":
      return describeCondition(part.part);
    default:
      return describeTest(part, true);
  }
}

/** For each operator, how it is said and how its opposite is. */
const phrases: Readonly<Record<string, readonly [string, string]>> = {
  "is-true": ["holds", "does not hold"],
  "is missing": ["is missing", "is given"],
  "is present": ["is given", "is missing"],
  "==": ["is", "is not"],
  "!=": ["is not", "is"],
  "<": ["is less than", "is at least"],
  "<=": ["is at most", "is more than"],
  ">": ["is more than", "is at most"],
  ">=": ["is at least", "is less than"],
  in: ["is one of", "is none of"],
  "not in": ["is none of", "is one of"],
  contains: ["contains", "does not contain"],
  overlaps: ["holds one of", "holds none of"],
  covers: ["holds all of", "does not hold all of"],
  "starts with": ["starts with", "does not start with"],
  "ends with": ["ends with", "does not end with"],
  matches: ["matches", "does not match"],
};

function describeTest(test: Test, negated: boolean): string {
  if (test.kind === "cohort") return `${negated ? "not " : ""}in the cohort ${test.name}`;
  if (test.kind === "window") return `${test.name} is ${negated ? "shut" : "open"}`;
  const [said, opposite] = phrases[test.operator]!;
  const literal = printLiteral(test.literal).replace(/^\[|\]$/g, "");
  return [printOperand(test.operand), negated ? opposite : said, literal].filter((part) => part !== "").join(" ");
}
