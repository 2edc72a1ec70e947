import { type Declared, decideFound } from "../../judge/index.ts";
import { type AttributeType, operators, printOperand, printPath, type Test, textsOf } from "../../language/index.ts";
import type { Definitions } from "../../model/index.ts";
import { type Answer, FALSE, TRUE, UNDECIDED, valueTypeOf } from "../../values/index.ts";
import { candidatesFor, fits } from "./candidates.ts";
import { isLoose, looseTestsClash } from "./loose-texts.ts";
import type { Neighbours } from "./neighbours.ts";
import type { Assumptions, AttributeWanted, Mode, Wanted } from "./wanted.ts";

/** What a proof goes by. */
export interface Grounds {
  readonly definitions: Definitions;
  readonly assumptions: Assumptions;
  readonly neighbours: Neighbours;
}

/** A value that gives tests the answers wanted of them, or that there may be one. */
export type Witness = { readonly value: unknown } | "perhaps";

/** A test, made ready for many values: the same tests are asked for each pair of rules. */
interface Ready {
  /** What it looks at. Tests of different subjects do not constrain each other. */
  readonly subject: string;
  readonly decide: (value: unknown) => Answer;
}

const ready = new WeakMap<Definitions, WeakMap<Test, Ready>>();

function readyOf(test: Test, definitions: Definitions): Ready {
  const ofSet = ready.get(definitions) ?? new WeakMap<Test, Ready>();
  ready.set(definitions, ofSet);
  const known = ofSet.get(test);
  if (known) return known;
  const made = makeReady(test, definitions);
  ofSet.set(test, made);
  return made;
}

function makeReady(test: Test, definitions: Definitions): Ready {
  if (test.kind !== "test") return { subject: `${test.kind}:${test.name}`, decide: (answer) => answer as Answer };
  const { operand } = test;
  if (operand.kind !== "path") return { subject: printOperand(operand), decide: decideFound(test, undefined) };
  const path = printPath(operand.path);
  return { subject: `path:${path}`, decide: decideFound(test, definitions.attributes.get(path)) };
}

export function subjectOf(test: Test, { definitions }: Grounds): string {
  return readyOf(test, definitions).subject;
}

/** Does a witness of other tests of its subject give one more test the answer wanted of it? */
export function testifies(witness: Witness, { test, mode }: Wanted, { definitions }: Grounds): boolean {
  return witness !== "perhaps" && satisfies(readyOf(test, definitions).decide(witness.value), mode);
}

/** A witness for tests of one subject; undefined only if it is proved that there is none. */
export function witnessFor(group: readonly Wanted[], grounds: Grounds): Witness | undefined {
  const [first] = group;
  const { test } = first!;
  if (test.kind === "window") return someAnswer([TRUE, FALSE], group);
  if (test.kind === "cohort") return someAnswer([TRUE, FALSE, UNDECIDED], group);
  const tests = group as readonly AttributeWanted[];
  switch (test.operand.kind) {
    case "environment":
      return oneOf(environments(grounds), answering(tests));
    case "flag":
      return flagWitness(tests, test.operand.name, grounds);
    case "path":
      return attributeWitness(tests, printPath(test.operand.path), grounds);
  }
}

function oneOf(values: readonly unknown[], holds: (value: unknown) => boolean): Witness | undefined {
  const index = values.findIndex(holds);
  return index < 0 ? undefined : { value: values[index] };
}

function environments({ definitions, assumptions }: Grounds): readonly (string | undefined)[] {
  if (assumptions.environments) return assumptions.environments;
  // A set that declares none can be opened for any, or for none.
  return definitions.environments.size > 0 ? [...definitions.environments.keys()] : [undefined, "any"];
}

function someAnswer(answers: readonly Answer[], group: readonly Wanted[]): Witness | undefined {
  return oneOf(answers, (answer) => group.every(({ mode }) => satisfies(answer as Answer, mode)));
}

function satisfies(answer: Answer, mode: Mode): boolean {
  switch (mode) {
    case "true":
      return answer === TRUE;
    case "false":
      return answer === FALSE;
    case "not-true":
      return answer !== TRUE;
    case "not-false":
      return answer !== FALSE;
  }
}

/** Does a value give all of these tests the answers wanted of them? Each test is made ready once, for many values. */
function answering(tests: readonly AttributeWanted[], declared?: Declared): (value: unknown) => boolean {
  const asked = tests.map(({ test, mode }) => ({ decide: decideFound(test, declared), mode }));
  return (value) => asked.every(({ decide, mode }) => satisfies(decide(value), mode));
}

/** The values that come into question for a subject. */
interface Domain {
  /** How the attribute is declared, as far as that changes what a test sees. */
  readonly declared?: Declared | undefined;
  holds(value: unknown): boolean;
  /** Values that no test need mention. */
  readonly listed?: readonly unknown[];
  /** Whether any text is among them, so that one may be found that no list of candidates holds. */
  readonly anyText: boolean;
}

/** What overrides may give, a flag may give too: one of its variants, or a value of its type. */
function flagWitness(tests: readonly AttributeWanted[], name: string, grounds: Grounds): Witness | undefined {
  const flag = grounds.definitions.flags.get(name);
  if (!flag) return "perhaps";
  if (flag.variants) return oneOf([...flag.variants.keys()], answering(tests));
  const { type } = flag;
  return witnessIn({ holds: (value) => valueTypeOf(value) === type, anyText: type === "text" }, tests, grounds);
}

function attributeWitness(tests: readonly AttributeWanted[], path: string, grounds: Grounds): Witness | undefined {
  const { definitions, assumptions } = grounds;
  const declared = definitions.attributes.get(path);
  const type = assumptions.declaredTypes ? declared?.type : undefined;
  if (type === undefined) return witnessIn({ declared, holds: () => true, anyText: true }, tests, grounds);
  const holds = (value: unknown) => fits(value, type);
  return witnessIn(
    { declared, holds, listed: Array.isArray(type) ? type : [], anyText: textual.has(type) },
    tests,
    grounds,
  );
}

/** Types of which any text may be a value, as far as is looked at here. */
const textual: ReadonlySet<AttributeType> = new Set<AttributeType>(["text", "version", "time"]);

function witnessIn(
  { declared, holds, listed = [], anyText }: Domain,
  tests: readonly AttributeWanted[],
  { neighbours }: Grounds,
): Witness | undefined {
  const candidates = candidatesFor(
    tests.map(({ test }) => test),
    declared?.ignoreCase === true,
    neighbours,
  );
  if (candidates === undefined) return "perhaps";
  const witness = oneOf([...candidates, ...listed].filter(holds), answering(tests, declared));
  return witness ?? (anyText && textsMayDo(tests, candidates, declared) ? "perhaps" : undefined);
}

/**
 * Tests for the beginning, end, middle or pattern of a text can be met by texts that no list of candidates holds. A
 * text that meets the other tests is taken to be able to meet these too, unless two of them clash outright, or the
 * texts that come into question are few and known.
 */
function textsMayDo(
  tests: readonly AttributeWanted[],
  candidates: readonly unknown[],
  declared: Declared | undefined,
): boolean {
  const loose = tests.filter(({ test }) => isLoose(test));
  const ignoresCase = declared?.ignoreCase === true;
  if (loose.length === 0 || looseTestsClash(loose, ignoresCase)) return false;
  if (tests.some((wanted) => !ignoresCase && namesItsTexts(wanted))) return false;
  const others = tests.filter(({ test }) => !isLoose(test));
  return candidates.filter((value) => typeof value === "string").some(answering(others, declared));
}

/** `== "x"` and `in ["x", "y"]`, when they must be true, leave only texts that are candidates. */
function namesItsTexts({ test, mode }: AttributeWanted): boolean {
  if (test.operand.kind === "path" && test.operand.lower) return false;
  const { equates, decide } = operators[test.operator];
  const [text] = textsOf(test.literal);
  if (!equates || text === undefined) return false;
  const wanted = decide(test.literal)(text.value) === TRUE ? "true" : "false";
  return mode === wanted;
}
