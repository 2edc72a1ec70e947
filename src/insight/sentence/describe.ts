import { printPath } from "../../language/index.ts";
import type { CohortDefinition, Definitions, Rule } from "../../model/index.ts";
import { printable, showRange } from "../../values/index.ts";
import { alikeIn } from "./alike.ts";
import { peopleWords, whenWords } from "./condition-words.ts";
import { clauseWords, getsWords, sentenceWords } from "./sentence-words.ts";
import { clauseOf, conditionOf, groupOf, tellingOf } from "./telling.ts";

/**
 * Says who gets what and when, in a sentence that needs no knowledge of the format.
 *
 * @param at the instant from which rising shares are told, in epoch milliseconds
 * @example describeFlag(definitions, "storm-mode", "production", Date.now()) // "Everybody gets false."
 */
export function describeFlag(
  definitions: Definitions,
  name: string,
  environment: string | undefined,
  at: number,
): string | undefined {
  const flag = definitions.flags.get(name);
  if (!flag) return undefined;
  return `${upperFirst(sentenceWords(tellingOf(flag, environment, definitions, at), definitions, at))}.`;
}

/** The sentence of a flag, and the environments for which it holds; all of them if undefined. */
export interface SentenceIn {
  readonly environments: readonly string[] | undefined;
  readonly sentence: string;
}

/** Describes a flag; if these environments differ, in a sentence for each. */
export function describeFlagIn(
  definitions: Definitions,
  name: string,
  environments: readonly string[],
  at: number,
): readonly SentenceIn[] {
  return alikeIn(environments, (each) => describeFlag(definitions, name, each, at) ?? "", String).map(
    ({ environments: where, answer }) => ({ environments: where, sentence: answer }),
  );
}

/** A rule in words. */
export interface RuleWords {
  /** The people it takes, when, and the verb: "During duty hours, testers get". */
  readonly who: string;
  /** The value, or the variants with their parts. */
  readonly gets: string;
}

/** Describes one rule on its own, as it stands in an environment. */
export function describeRule(definitions: Definitions, rule: Rule, at: number): RuleWords {
  const clause = clauseOf(rule, definitions, at);
  return { who: upperFirst(clauseWords(clause, definitions, at)), gets: getsWords(clause.gets) };
}

/** Describes who belongs to a cohort. */
export function describeCohort(cohort: CohortDefinition, definitions: Definitions): string {
  switch (cohort.kind) {
    case "condition": {
      const { people, when } = groupOf(conditionOf(cohort.when, definitions));
      const during = whenWords(when, definitions);
      return `${upperFirst(`${peopleWords(people.traits, undefined)}${during ? `, ${during}` : ""}`)}.`;
    }
    case "list": {
      const from = cohort.file === undefined ? "" : `, from ${cohort.file}`;
      const where = cohort.hashed === undefined ? from : `${from}, as salted digests`;
      const { size } = cohort.ids;
      return printable(
        `${size.toLocaleString("en-US")} ${size === 1 ? "id" : "ids"} by ${printPath(cohort.of)}${where}.`,
      );
    }
    case "lot":
      return `By lot, ${showRange(cohort.range)} of all people by ${printPath(cohort.by)}.`;
  }
}

function upperFirst(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
