import { ToolError } from "../files/index.ts";
import {
  Census,
  type CensusResult,
  type FlagReach,
  type PartChange,
  type PositionCounts,
  Positions,
  Reach,
} from "../insight/index.ts";
import { FlagSet, HarmlessCopy, idText, readPath } from "../judge/index.ts";
import { parsePath, printPath } from "../language/index.ts";
import { askedAttributes, type Definitions, flagIn, pathOf, subjectOf } from "../model/index.ts";
import { didYouMean } from "../values/index.ts";
import { type PeopleOptions, type PeopleRead, readPeople } from "./people.ts";

/** What a census is to count. */
export interface CensusRequest extends PeopleOptions {
  readonly flag: string;
  /** A CSV or NDJSON file of contexts. */
  readonly people: string;
  readonly environment?: string | undefined;
  /** Epoch milliseconds. */
  readonly at: number;
  /** Split the counts by this attribute. */
  readonly by?: string | undefined;
}

export interface PeopleCensus extends CensusResult {
  readonly read: PeopleRead;
}

/** How the values of a flag fall on a file of contexts of any size. */
export async function takeCensus(definitions: Definitions, request: CensusRequest): Promise<PeopleCensus> {
  const by = request.by === undefined ? undefined : groupingPath(request.by, definitions);
  const census = new Census(new FlagSet(definitions, request.environment), request.flag, { at: request.at, by });
  const read = await readPeople(request.people, definitions, (context) => census.count(context), {
    ...request,
    lines: false,
  });
  const result = census.result();
  const isInNone = result.by?.groups.every(({ group }) => group === undefined) ?? false;
  if (isInNone && result.contexts > 0) throw inNoContext(request.by!, definitions, request.people);
  return { ...result, read };
}

function inNoContext(attribute: string, definitions: Definitions, file: string): ToolError {
  const known = new Set([...definitions.attributes.keys(), ...askedAttributes(definitions).keys()]);
  const help = known.has(attribute) ? undefined : didYouMean(attribute, known);
  return new ToolError(`No context of “${file}” has ${attribute}.`, help ?? "name an attribute that they have");
}

/** How several flags fall on one file of people, which is read once. */
export interface FlagsCensusRequest extends PeopleOptions {
  readonly flags: readonly string[];
  readonly people: string;
  /** Each flag is counted in each of them. */
  readonly environments: readonly (string | undefined)[];
  /** Epoch milliseconds. */
  readonly at: number;
}

/** The counts of every flag in every environment, and what was read. */
export interface FlagsCensus {
  readonly counts: readonly CensusResult[];
  readonly read: PeopleRead;
}

/** How the values of several flags fall on a file of contexts of any size, in memory that does not grow with it. */
export async function takeCensusOfFlags(definitions: Definitions, request: FlagsCensusRequest): Promise<FlagsCensus> {
  const { flags, environments, at } = request;
  const censuses = environments.flatMap((environment) => {
    const set = new FlagSet(definitions, environment);
    return flags.map((flag) => new Census(set, flag, { at }));
  });
  const see = (context: unknown) => {
    for (const census of censuses) census.count(context);
  };
  const read = await readPeople(request.people, definitions, see, { ...request, lines: false });
  return { counts: censuses.map((census) => census.result()), read };
}

/** Which rule a share is tried for, and on whom. */
export interface PositionsRequest extends PeopleOptions {
  readonly flag: string;
  /** From 1. */
  readonly rule: number;
  readonly people: string;
  readonly environment?: string | undefined;
}

/** By which definitions a share is tried, and when. */
export interface PositionsTrial {
  readonly definitions: Definitions;
  /** Epoch milliseconds. */
  readonly at: number;
}

/**
 * How many people of a file a rule would take by any share, once for each trial: by the rule as it is and as it would be,
 * now and later. The file is read once. Where a trial has no such rule, nobody is asked by it.
 *
 * @throws {ToolError} where none of the trials has such a rule
 */
export async function countPositions(
  trials: readonly PositionsTrial[],
  { flag, rule, people, environment, ...options }: PositionsRequest,
): Promise<readonly PositionCounts[]> {
  const hasRule = ({ definitions }: PositionsTrial) => {
    const definition = definitions.flags.get(flag);
    return definition !== undefined && flagIn(definition, environment).rules[rule - 1] !== undefined;
  };
  const last = trials.findLast(hasRule);
  if (!last) throw new ToolError(`${flag} has no rule ${rule} there.`, "count the rules from 1");
  const counts = trials.map((trial) =>
    hasRule(trial) ? new Positions(new FlagSet(trial.definitions, environment), flag, rule, trial) : undefined,
  );
  const see = (context: unknown) => {
    for (const positions of counts) positions?.count(context);
  };
  await readPeople(people, last.definitions, see, { ...options, lines: false });
  return counts.map((positions) => positions?.result() ?? { asked: 0, withoutId: 0, below: [] });
}

function groupingPath(text: string, definitions: Definitions): string {
  const { path } = parsePath(text);
  if (!path) throw new ToolError(`“${text}” is not a path of an attribute.`, 'write account.plan, or claims["a name"]');
  const name = printPath(path);
  if (definitions.attributes.get(name)?.private) {
    throw new ToolError(`“${name}” is private, so its values are not shown.`, "split by another attribute");
  }
  return name;
}

/** On whom a change is tried. */
export interface ReachRequest extends PeopleOptions {
  readonly people: string;
  readonly environment?: string | undefined;
  /** Epoch milliseconds. */
  readonly at: number;
  /** How many people of each move are named. */
  readonly named?: number;
}

/** Whom a change reaches. */
export interface PeopleReach {
  readonly people: number;
  /** People for whom at least one flag gives another value. */
  readonly reached: number;
  readonly flags: readonly FlagReach[];
  readonly read: PeopleRead;
}

/** Whom a change reaches, in a file of contexts of any size. */
export async function reachOfChange(
  before: Definitions,
  after: Definitions,
  changes: readonly PartChange[],
  request: ReachRequest,
): Promise<PeopleReach> {
  const reach = new Reach(before, after, changes, request);
  const label = labelling(after, reach.flags);
  const see = (context: unknown, line: number) => reach.count(context, label(context, line));
  const read = await readPeople(request.people, after, see, request);
  return { people: reach.people, reached: reach.reached, flags: reach.result(), read };
}

/** People are called by the id that shares hash; by their line where there is none, or where it is private. */
function labelling(definitions: Definitions, flags: readonly string[]): (context: unknown, line: number) => string {
  const candidates = [...flags.map((name) => definitions.flags.get(name)!), ...definitions.flags.values()];
  const path = pathOf(candidates.map(subjectOf).find((by) => by !== "") ?? "");
  if (path.length === 0 || definitions.attributes.get(printPath(path))?.private) return (_, line) => `line ${line}`;
  return (context, line) => idText(readPath(new HarmlessCopy(context).take([path]), path)) ?? `line ${line}`;
}
