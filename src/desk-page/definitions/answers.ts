import { alikeIn, causeWords, describeFlagIn } from "../../insight/index.ts";
import type { Outcome, Verdict } from "../../judge/index.ts";
import { type Definitions, type FlagDefinition, type Stop, stopIn } from "../../model/index.ts";
import { canonicalJson, show } from "../../values/index.ts";
import { instantOf } from "../asking/clock.ts";
import { nameOfPerson } from "../asking/person.ts";
import type { Circumstances } from "../asking/question.ts";
import { answersIn, type Supposed } from "./long-list.ts";
import type { ReadSet } from "./read-set.ts";

/** The answer to the question for one flag, once for all environments that share it. */
export interface Part {
  /** Every one that is asked for if undefined. */
  readonly environments: readonly string[] | undefined;
  /** What is given, where it is one thing. */
  readonly value: string | undefined;
  /** A sentence: who gets what, or why. */
  readonly words: string;
  /** What depends on a list in which the person has not been looked up: the value, or only why it is given. */
  readonly open?: "value" | "cause";
}

/** The environments that a question asks for. */
export function environmentsOf({ environment }: Circumstances, definitions: Definitions): readonly string[] {
  return environment === undefined ? [...definitions.environments.keys()] : [environment];
}

/** What a flag gives by a question; nothing where the flag is not defined in that version. */
export function partsOf(name: string, asked: Circumstances, set: ReadSet): readonly Part[] {
  const definitions = set.definitions!;
  if (!definitions.flags.has(name)) return [];
  const at = instantOf(asked);
  const environments = environmentsOf(asked, definitions);
  const { whom } = asked;
  if (whom.kind !== "person") {
    return describeFlagIn(definitions, name, environments, at).map(({ environments: where, sentence }) => ({
      environments: where,
      value: undefined,
      words: sentence,
    }));
  }
  const judge = (environment: string | undefined) => () =>
    set.flagSet(environment).judge(name, whom.context, () => at)!;
  const isSame = (one: Outcome, other: Outcome) => cacheKey(one) === cacheKey(other);
  const called = nameOfPerson(whom.context, definitions);
  return alikeIn(
    environments,
    (environment) => set.suppose(judge(environment), isSame),
    (supposed) => keyOf(supposed),
  ).map(({ environments: where, answer }) => ({ environments: where, ...saidOf(answer, called, set) }));
}

function saidOf(supposed: Supposed<Outcome>, called: string, set: ReadSet): Omit<Part, "environments"> {
  if ("answer" in supposed) return { value: valueWords(supposed.answer), words: causeWords(supposed.answer) };
  const [value, ...others] = new Set(answersIn(supposed)?.map(valueWords));
  if (value === undefined || others.length > 0)
    return { value: undefined, words: `${openWords(supposed, called, set)}.`, open: "value" };
  return { value, words: `whether ${called} is in ${set.cohortOf(supposed.open.list)} or not`, open: "cause" };
}

function keyOf(supposed: Supposed<Outcome>): string {
  if ("answer" in supposed) return cacheKey(supposed.answer);
  const { open, either } = supposed;
  return either ? `${open.id} ${keyOf(either.ifListed)} ${keyOf(either.ifNot)}` : open.id;
}

/** “true if C-204 is in pilot-captains, else false” */
function openWords(supposed: Supposed<Outcome>, called: string, set: ReadSet): string {
  if ("answer" in supposed) return valueWords(supposed.answer);
  const { open, either } = supposed;
  const cohort = set.cohortOf(open.list);
  if (!either) return `what depends on ${cohort} and other lists`;
  const listed = openWords(either.ifListed, called, set);
  const inBrackets = "answer" in either.ifListed ? listed : `(${listed})`;
  return `${inBrackets} if ${called} is in ${cohort}, else ${openWords(either.ifNot, called, set)}`;
}

function cacheKey({ value, variant, cause, rule }: Outcome): string {
  return canonicalJson({ value: value ?? null, variant: variant ?? null, cause, rule: rule ?? null });
}

/** A value as it is shown: the variant's name with its value, or the value. */
export function valueWords({ value, variant }: Pick<Verdict, "value" | "variant">): string {
  const shown = typeof value === "string" ? value : show(value, 80);
  return variant === undefined || variant === shown ? shown : `${variant} (${shown})`;
}

/** Whether two questions are answered differently for a flag. */
export function differs(
  name: string,
  one: Circumstances,
  other: Circumstances,
  sets: readonly [ReadSet, ReadSet],
): boolean {
  return sayOtherwise(partsOf(name, one, sets[0]), partsOf(name, other, sets[1]));
}

/** What is not known yet is not said to differ. */
export function sayOtherwise(one: readonly Part[], other: readonly Part[]): boolean {
  return ![...one, ...other].some(({ open }) => open) && sameWords(one) !== sameWords(other);
}

function sameWords(parts: readonly Part[]): string {
  return parts.map(({ environments, value, words }) => `${environments?.join() ?? ""}|${value}|${words}`).join("\n");
}

/** A stop of a flag that touches the environment asked about, or any where none is asked about. */
export function stopOf(name: string, { environment }: Circumstances, definitions: Definitions): Stop | undefined {
  const suspension = definitions.suspensions.get(name);
  return suspension && (environment === undefined ? suspension.stops[0] : stopIn(suspension, environment));
}

/** The day by which a flag was to be looked at again, where it is over. */
export function overdueSince({ source }: FlagDefinition, at: number): string | undefined {
  const day = source["review-by"];
  return day !== undefined && at >= Date.parse(`${day}T00:00Z`) + 86_400_000 ? day : undefined;
}
