import { showInstant } from "../../calendar/index.ts";
import { compileTest, type FlagSet, idText, type Question, readPath } from "../../judge/index.ts";
import {
  type AttributeTest,
  asksPresence,
  type Condition,
  isMissing,
  type PathOperand,
  printOperand,
  printPath,
  type Test,
} from "../../language/index.ts";
import { isInside, isListed, type ListCohort, type LotCohort } from "../../model/index.ts";
import {
  type Answer,
  answerWord,
  describeKind,
  FALSE,
  hasOwn,
  opposite,
  show,
  showRange,
  TRUE,
  UNDECIDED,
} from "../../values/index.ts";
import type { ConditionTrace, Lack, TestTrace } from "./explanation.ts";

export const masked = "•••";

/** What tracing needs to know of one asking. */
export interface Tracing {
  readonly flags: FlagSet;
  readonly question: Question;
  /** The context as it was handed in; only looked at for hints. */
  readonly original: unknown;
  /** Where an id stands in the list of a cohort, for people; see `ExplainOptions`. */
  readonly whereListed?: WhereListed | undefined;
  /** Whether private ids give away where they stand; see `ExplainOptions`. */
  readonly reveal: boolean;
  /** The cohorts and windows that were told already: each is told once, and then referred to. */
  readonly told: Map<string, Seen>;
}

/** Tells the file and line of an id, such as "lists/pilot-captains.csv:3". */
export type WhereListed = (cohort: string, id: string) => string | undefined;

interface Answered {
  readonly node: Condition;
  readonly answer: Answer;
  readonly parts: readonly Answered[];
}

const none: readonly Answered[] = [];

/** What is the same of a test in every explanation by one set. */
interface KnownTest {
  readonly ask: (question: Question) => Answer;
  /** What is asked, and its attribute, as conditions write them. */
  readonly subject: string;
  readonly name: string;
}

const knownTests = new WeakMap<FlagSet, Map<Test, KnownTest>>();

function knownOf(test: Test, flags: FlagSet): KnownTest {
  const ofSet = knownTests.get(flags) ?? new Map<Test, KnownTest>();
  if (ofSet.size === 0) knownTests.set(flags, ofSet);
  const before = ofSet.get(test);
  if (before) return before;
  const known = {
    ask: compileTest(test, flags.surroundings),
    subject: test.kind === "test" ? printOperand(test.operand) : `${test.kind}:${test.name}`,
    name: test.kind === "test" && test.operand.kind === "path" ? printPath(test.operand.path) : "",
  };
  ofSet.set(test, known);
  return known;
}

/** Asks every test of a condition, also those that judging would have skipped, and notes what each one saw. */
export function traceCondition(text: string, tracing: Tracing): ConditionTrace {
  const { condition } = tracing.flags.definitions.conditions.get(text);
  if (!condition) return { text, answer: "undecided", tests: [] };
  const answered = answer(condition, tracing);
  const decisive = new Set(deciding(answered).map(({ node }) => node));
  const tests = leaves(answered).map(({ node, answer: given }) =>
    traceTest(node as Test, given, decisive.has(node), text, tracing),
  );
  const lacks = answered.answer === TRUE ? undefined : lacking(answered, true).map((lack) => lackOf(lack, text));
  return { text, answer: answerWord(answered.answer), tests, ...(lacks ? { lacks } : {}) };
}

interface Lacking {
  readonly test: Test;
  readonly wanted: boolean;
}

/** The fewest tests that would have to answer otherwise for the whole to be true, or false. */
function lacking({ node, answer: given, parts }: Answered, wanted: boolean): Lacking[] {
  if (given === (wanted ? TRUE : FALSE)) return [];
  if (parts.length === 0) return [{ test: node as Test, wanted }];
  if (node.kind === "not") return lacking(parts[0]!, !wanted);
  const ways = parts.map((part) => lacking(part, wanted));
  if ((node.kind === "and") === wanted) return ([] as Lacking[]).concat(...ways);
  return ways.reduce((best, way) => (effort(way) < effort(best) ? way : best));
}

/** A person can change an attribute sooner than the environment. */
function effort(way: readonly Lacking[]): number {
  return way.reduce((sum, { test }) => sum + (test.kind === "test" && test.operand.kind === "environment" ? 5 : 1), 0);
}

function lackOf({ test, wanted }: Lacking, text: string): Lack {
  return { text: text.slice(test.start, test.end), wanted: wanted ? "true" : "false" };
}

function answer(node: Condition, tracing: Tracing): Answered {
  switch (node.kind) {
    case "and":
    case "or": {
      const parts = node.parts.map((part) => answer(part, tracing));
      const answers = parts.map((part) => part.answer);
      return { node, parts, answer: (node.kind === "and" ? Math.min(...answers) : Math.max(...answers)) as Answer };
    }
    case "not": {
      const part = answer(node.part, tracing);
      return { node, parts: [part], answer: opposite(part.answer) };
    }
    default:
      return { node, parts: none, answer: knownOf(node, tracing.flags).ask(tracing.question) };
  }
}

/** The tests that made the answer: one false side of an `and`, one true side of an `or`, else all that agree with it. */
function deciding(answered: Answered): Answered[] {
  const { node, parts, answer: given } = answered;
  if (parts.length === 0) return [answered];
  const oneIsEnough = (node.kind === "and" && given === FALSE) || (node.kind === "or" && given === TRUE);
  const agreeing = node.kind === "not" ? parts : parts.filter((part) => part.answer === given);
  return ([] as Answered[]).concat(...(oneIsEnough ? agreeing.slice(0, 1) : agreeing).map(deciding));
}

function leaves(answered: Answered): Answered[] {
  return answered.parts.length === 0 ? [answered] : ([] as Answered[]).concat(...answered.parts.map(leaves));
}

function traceTest(test: Test, given: Answer, decided: boolean, text: string, tracing: Tracing): TestTrace {
  const { start, end } = test;
  const known = knownOf(test, tracing.flags);
  const seen =
    test.kind === "test" ? traceOperand(test, given, known, tracing) : traceOnce(known.subject, test, tracing);
  // Spelt out: spreading two objects into one takes longer than all the rest of an explanation.
  const trace: { -readonly [Key in keyof TestTrace]: TestTrace[Key] } = {
    start,
    end,
    text: text.slice(start, end),
    answer: answerWord(given),
    decided,
    subject: seen.subject,
    because: seen.because,
  };
  if (seen.attribute !== undefined) trace.attribute = seen.attribute;
  if (seen.seen !== undefined) trace.seen = seen.seen;
  if (seen.inner !== undefined) trace.inner = seen.inner;
  return trace;
}

type Seen = Pick<TestTrace, "subject" | "attribute" | "seen" | "because" | "inner">;

/** A cohort that names two others, which name two others, would be told a million times. */
function traceOnce(subject: string, { kind, name }: Exclude<Test, AttributeTest>, tracing: Tracing): Seen {
  const before = tracing.told.get(subject);
  if (before) {
    const { inner, ...seen } = before;
    return inner ? { ...seen, because: `${seen.because}, as told above` } : seen;
  }
  const seen = kind === "cohort" ? traceCohort(name, tracing) : traceWindow(name, tracing);
  tracing.told.set(subject, seen);
  return seen;
}

function traceCohort(name: string, tracing: Tracing): Seen {
  const subject = `cohort:${name}`;
  const cohort = tracing.flags.definitions.cohorts.get(name);
  if (!cohort) return { subject, because: "nobody defines it" };
  if (cohort.kind === "list") return { subject, attribute: printPath(cohort.of), ...traceList(cohort, tracing) };
  if (cohort.kind === "lot") return { subject, attribute: printPath(cohort.by), ...traceLot(cohort, tracing) };
  const inner = traceCondition(cohort.when, tracing);
  return { subject, because: `its condition is ${inner.answer}`, inner };
}

function traceList(cohort: ListCohort, tracing: Tracing): Omit<Seen, "subject"> {
  const path = printPath(cohort.of);
  const found = readPath(tracing.question.context, cohort.of);
  const id = idText(found);
  if (id === undefined) return { because: noId(path, found, cohort.of, tracing) };
  const seen = isPrivate(path, tracing) ? masked : id;
  const isHeld = isListed(cohort, id);
  const isTold = isHeld && !isHidden(path, tracing);
  const place = isTold ? tracing.whereListed?.(cohort.name, id) : undefined;
  const where = place ?? cohort.file ?? "its list";
  return { seen, because: `${path} is ${seen}, which is ${isHeld ? "" : "not "}in ${where}` };
}

/** People by lot: where the id stands, and which stretch is drawn. */
function traceLot({ by, bucket, range }: LotCohort, tracing: Tracing): Omit<Seen, "subject"> {
  const path = printPath(by);
  const found = readPath(tracing.question.context, by);
  const id = idText(found);
  if (id === undefined) return { because: noId(path, found, by, tracing) };
  const seen = isPrivate(path, tracing) ? masked : id;
  const position = bucket.position(id);
  const where = isHidden(path, tracing) ? "" : ` at ${showPosition(position)},`;
  const drawn = isInside(position, range) ? "inside" : "outside";
  return { seen, because: `${path} is ${seen},${where} ${drawn} the lot of ${showRange(range)}` };
}

/** A position as people read it, beside percentages. */
export function showPosition(position: number): string {
  // Cut, not rounded: nobody at 9.999% is to seem outside 10%.
  return `${(Math.floor(position * 10_000) / 100).toFixed(2)}%`;
}

/** Why an attribute is not an id. */
export function noId(name: string, found: unknown, path: readonly string[], tracing: Tracing): string {
  if (isMissing(found)) return `${name} is missing${dottedHint(path, tracing.original)}`;
  if (found === "") return `${name} is an empty text, which is not an id`;
  return `${name} is ${describeKind(found)}, which is not an id`;
}

function traceWindow(name: string, { flags, question }: Tracing): Seen {
  const subject = `window:${name}`;
  const definition = flags.definitions.windows.get(name);
  if (!definition) return { subject, because: "nobody defines it" };
  const { window } = definition;
  const open = window.isOpen(question.at);
  const next = window.nextChange(question.at);
  const change = next === undefined ? "" : `, until ${showInstant(next, window.parts.zone)}`;
  return { subject, seen: open ? "open" : "shut", because: `it is ${open ? "open" : "shut"}${change}` };
}

function traceOperand(test: AttributeTest, given: Answer, known: KnownTest, tracing: Tracing): Seen {
  const { operand } = test;
  const { subject } = known;
  switch (operand.kind) {
    case "environment": {
      const { environment } = tracing.flags;
      return environment === undefined
        ? { subject, because: "no environment was given" }
        : { subject, seen: environment, because: `the environment is ${environment}` };
    }
    case "flag": {
      const flag = tracing.flags.flag(operand.name);
      const seen = flag?.judgeOnce(tracing.question).seenBy(flag.definition.variants !== undefined);
      return { subject, seen: show(seen), because: `${subject} is ${show(seen)}` };
    }
    case "path":
      return traceAttribute(test, operand, given, known, tracing);
  }
}

function traceAttribute(
  test: AttributeTest,
  operand: PathOperand,
  given: Answer,
  { subject, name }: KnownTest,
  tracing: Tracing,
): Seen {
  const presence = asksPresence(test.operator);
  const attribute = tracing.flags.definitions.attributes.get(name);
  const found = readPath(tracing.question.context, operand.path);
  const standsIn = isMissing(found) && attribute?.missingAs !== undefined && !presence;
  const value = standsIn ? attribute.missingAs : found;
  if (isMissing(value)) return { subject, because: `${name} is missing${dottedHint(operand.path, tracing.original)}` };
  const hidden = attribute?.private === true;
  const seen = hidden ? masked : show(value);
  if (given === UNDECIDED)
    return { subject, seen, because: undecidedBecause(test, name, value, hidden ? undefined : seen) };
  return { subject, seen, because: `${name} is ${standsIn ? `missing, taken as ${seen}` : seen}` };
}

function undecidedBecause(test: AttributeTest, name: string, value: unknown, seen: string | undefined): string {
  const kind = test.literal.kind;
  if (typeof value === "string" && kind === "version") return `${name} is ${seen ?? "a text"}, which is not a version`;
  if (typeof value === "string" && kind === "time") return `${name} is ${seen ?? "a text"}, which is not an instant`;
  const shown = seen === undefined || typeof value === "object" ? "" : ` (${seen})`;
  return `${name} is ${describeKind(value)}${shown}, which this test cannot decide`;
}

/** A key spelt with dots is a frequent slip: the path goes down into nested objects. */
export function dottedHint(path: readonly string[], original: unknown): string {
  const dotted = path.join(".");
  try {
    if (path.length < 2 || typeof original !== "object" || original === null || !hasOwn(original, dotted)) return "";
  } catch {
    return "";
  }
  return `; the context has a key spelt "${dotted}", but the path means ${path.join(" and in it ")}`;
}

export function isPrivate(path: string, { flags }: Tracing): boolean {
  return flags.definitions.attributes.get(path)?.private === true;
}

/** Must what a hash or a list makes of the attribute be kept back? */
export function isHidden(path: string, tracing: Tracing): boolean {
  return isPrivate(path, tracing) && !tracing.reveal;
}
