import { ToolError } from "../files/index.ts";
import { printPath } from "../language/index.ts";
import {
  type Definitions,
  type FlagDefinition,
  flagIn,
  partsOf,
  type Rule,
  rangeAt,
  ruleCalled,
  stepsOf,
} from "../model/index.ts";
import { nearest, type Range, sentenceList } from "../values/index.ts";

/** A time in which a rule divided people in the same way; epoch milliseconds, `until` not included. */
export interface Span {
  readonly from: number;
  readonly until: number;
  /** The parts that are due to each group, from 0 to 1; undefined where nobody can know them. */
  readonly due: readonly number[] | undefined;
}

/** What is compared: the groups that one rule makes. */
export interface Experiment {
  readonly flag: string;
  readonly environment: string | undefined;
  readonly rule: RuleName;
  /** The attribute whose id the rule draws. */
  readonly by: string;
  /** A split's variants in the order of the file, or whom a share left out and let in. */
  readonly divides: "split" | "share";
  readonly groups: readonly string[];
  /** The values of the groups of a split, by which rows without variants are known. */
  readonly values: readonly unknown[];
  /** Ascending and without gaps. Nothing before the first counts: the groups were others. */
  readonly spans: readonly Span[];
  /** Why the sizes of the groups cannot be held against anything, where a rule above takes a part that is not known. */
  readonly unknownParts: string | undefined;
  /** Other flags that go by the same salt: the same people are let into both. */
  readonly sameSalt: readonly string[];
}

export interface RuleName {
  readonly number: number;
  readonly name: string | undefined;
}

/** The flag as it stood from an instant on. */
export interface FlagVersion {
  readonly from: number;
  readonly flag: FlagDefinition | undefined;
}

/** Which rule of which flag is meant. */
export interface ExperimentRequest {
  readonly flag: string;
  readonly environment: string | undefined;
  /** A name or a number; the only one that divides people if left out. */
  readonly rule: string | undefined;
  /** Earlier versions of the flag, ascending; the definitions are the last one. */
  readonly earlier: readonly FlagVersion[];
  /** Instants at which the parts changed, as somebody says who knows. */
  readonly changed: readonly number[];
}

/** As many as a bit each has room for. */
const maxGroups = 30;

/** @throws {ToolError} where there is no such rule, or it makes no groups */
export function experimentOf(definitions: Definitions, request: ExperimentRequest): Experiment {
  const flag = definitions.flags.get(request.flag);
  if (!flag) throw new ToolError(`There is no flag “${request.flag}”.`, "iudex list names them all");
  const rule = ruleMeant(flag, request);
  const design = designOf(flag, rule, request.environment)!;
  const { spans, unknownParts } = spansOf(flag, design, request);
  const { groups, values, by, divides, salt } = design;
  if (groups.length > maxGroups)
    throw new ToolError(`${flag.name} has more than ${maxGroups} groups.`, "weigh a split of fewer parts");
  return {
    flag: flag.name,
    environment: request.environment,
    rule: { number: rule.number, name: rule.name },
    by,
    divides,
    groups,
    values,
    spans,
    unknownParts,
    sameSalt: divides === "share" ? othersBySalt(definitions, flag.name, request.environment, salt) : [],
  };
}

function ruleMeant(flag: FlagDefinition, { rule, environment }: ExperimentRequest): Rule {
  const dividing = flagIn(flag, environment).rules.filter(({ division }) => division !== undefined);
  const names = dividing.map(({ name, number }) => name ?? String(number));
  if (dividing.length === 0)
    throw new ToolError(`No rule of ${flag.name} has a share or a split.`, "weigh a flag whose rule divides people");
  if (rule === undefined) {
    if (dividing.length === 1) return dividing[0]!;
    const which = sentenceList(names.map((name) => `“${name}”`));
    throw new ToolError(
      `${dividing.length} rules of ${flag.name} divide people: ${which}.`,
      "say which one with --rule",
    );
  }
  const found = dividing.find(({ name, number }) => name === rule || (name === undefined && String(number) === rule));
  const byNumber = found ?? dividing.find(({ number }) => String(number) === rule);
  if (byNumber) return byNumber;
  const near = nearest(rule, names);
  throw new ToolError(
    `No rule of ${flag.name} that divides people is called “${rule}”.`,
    near === undefined ? `write --rule and one of ${sentenceList(names, "or")}` : `did you mean --rule "${near}"?`,
  );
}

/** How a rule makes its groups at one version of the flag. */
interface Design {
  readonly divides: "split" | "share";
  readonly by: string;
  readonly salt: string;
  readonly groups: readonly string[];
  readonly values: readonly unknown[];
  /** Instants at which the parts change by themselves. */
  readonly steps: readonly number[];
  due(at: number): readonly number[] | undefined;
  /** What makes the parts unknown. */
  readonly unknownBy: string | undefined;
}

function designOf(flag: FlagDefinition, rule: Rule, environment: string | undefined): Design | undefined {
  const { division } = rule;
  if (!division) return undefined;
  const { salt, split } = division;
  const common = { salt, by: printPath(division.by) };
  if (split) {
    const parts = partsOf(split);
    const groups = parts.map(({ variant }) => variant);
    const values = groups.map((name) => flag.variants?.get(name));
    const due = parts.map(({ fraction }) => fraction);
    return { ...common, divides: "split", groups, values, steps: [], due: () => due, unknownBy: undefined };
  }
  const above = flagIn(flag, environment).rules.filter(({ number }) => number < rule.number);
  const taking = above.filter(({ division: other }) => other?.salt === salt && printPath(other.by) === common.by);
  const conditional = taking.find(({ when }) => when !== undefined);
  const shares = taking.map(({ division: other }) => stepsOf(other!.share));
  const own = stepsOf(division.share);
  const due = (at: number) => {
    const taken = shares.map((steps) => rangeAt(steps, at));
    const reached = 1 - lengthOf(taken);
    const inside = lengthOf([...taken, rangeAt(own, at)]) - lengthOf(taken);
    return reached <= 0 ? [0, 0] : [1 - inside / reached, inside / reached];
  };
  return {
    ...common,
    divides: "share",
    groups: ["left out", "let in"],
    values: [],
    steps: [own, ...shares].flatMap((steps) => steps.map(({ from }) => from)).filter(Number.isFinite),
    due: conditional ? () => undefined : due,
    unknownBy: conditional && ruleCalled(conditional),
  };
}

/** The part of all positions that some ranges cover, from 0 to 1. */
function lengthOf(ranges: readonly Range[]): number {
  let covered = 0;
  let end = 0;
  for (const { low, high } of [...ranges].sort((a, b) => a.low - b.low)) {
    covered += Math.max(0, high - Math.max(low, end));
    end = Math.max(end, high);
  }
  return covered / 100;
}

const always = Number.NEGATIVE_INFINITY;
const forEver = Number.POSITIVE_INFINITY;

function spansOf(
  flag: FlagDefinition,
  design: Design,
  { earlier, changed, rule, environment }: ExperimentRequest,
): Pick<Experiment, "spans" | "unknownParts"> {
  // The last commit is what stands in the folder, unless somebody is at work there; before the first nothing is known.
  const froms = earlier.length === 0 ? [always] : earlier.map(({ from }, i) => (i === 0 ? always : from));
  const versions = froms.map((from, i) => ({ from, flag: i < froms.length - 1 ? earlier[i]!.flag : flag }));
  const designs = versions.map((version) => ({
    from: version.from,
    design: designIn(version.flag, rule, environment, design),
  }));
  const same = designs.findLastIndex((each) => !each.design || !isSame(each.design, design)) + 1;
  const known = designs.slice(same) as { readonly from: number; readonly design: Design }[];
  const ends = known.flatMap(({ from, design: { steps } }, i) => {
    const until = known[i + 1]?.from ?? forEver;
    return [from, ...steps.filter((step) => step > from && step < until)];
  });
  const said = Math.max(always, ...changed);
  const starts = [...new Set([...ends, ...changed.filter((at) => at > known[0]!.from)])].sort((a, b) => a - b);
  const spans = starts.map((from, i): Span => {
    const { design: then } = known.findLast((each) => each.from <= from)!;
    // What the parts were before a change that only somebody says, nobody knows.
    return { from, until: starts[i + 1] ?? forEver, due: from < said ? undefined : then.due(from) };
  });
  const nested = known.find((each) => each.design.unknownBy !== undefined)?.design.unknownBy;
  const unknownParts =
    nested && `who reaches this rule depends on ${nested} above it, which has the same salt and a condition`;
  return { spans: joined(spans, changed), unknownParts };
}

/** Without borders at which nothing changes. */
function joined(spans: readonly Span[], changed: readonly number[]): readonly Span[] {
  const all: Span[] = [];
  for (const span of spans) {
    const before = all.at(-1);
    const isSameAsBefore = before && JSON.stringify(before.due) === JSON.stringify(span.due);
    if (isSameAsBefore && !changed.includes(span.from)) all.splice(-1, 1, { ...before, until: span.until });
    else all.push(span);
  }
  return all;
}

function designIn(
  flag: FlagDefinition | undefined,
  rule: string | undefined,
  environment: string | undefined,
  now: Design,
): Design | undefined {
  const dividing = flag ? flagIn(flag, environment).rules.filter(({ division }) => division !== undefined) : [];
  const meant =
    rule === undefined ? dividing : dividing.filter(({ name, number }) => name === rule || String(number) === rule);
  const designs = meant.map((each) => designOf(flag!, each, environment));
  return designs.find((design) => design && isSame(design, now)) ?? designs[0];
}

/** Whether the same people come into the same groups, but for the size of the parts. */
function isSame(one: Design, other: Design): boolean {
  const said = ({ divides, by, salt, groups }: Design) => JSON.stringify([divides, by, salt, groups]);
  return said(one) === said(other);
}

function othersBySalt(definitions: Definitions, flag: string, environment: string | undefined, salt: string): string[] {
  return [...definitions.flags.values()]
    .filter((other) => other.name !== flag)
    .filter((other) =>
      flagIn(other, environment).rules.some(({ division }) => division?.share && division.salt === salt),
    )
    .map(({ name }) => name);
}
