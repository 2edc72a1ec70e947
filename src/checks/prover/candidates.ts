import { type AttributeTest, type AttributeType, type Literal, operators } from "../../language/index.ts";
import { isOfType } from "../../model/index.ts";
import { compareVersions, parseTime, parseVersion, type VersionLiteral } from "../../values/index.ts";
import { caseVariants } from "./case-variants.ts";
import type { Neighbours } from "./neighbours.ts";

/** More items than this would make too many different lists. */
const maxItems = 7;

/**
 * Values of one attribute such that, if any value gives the tests certain answers, one of these does (tests for parts of
 * a text aside). Every literal is among them, and for ordered ones its neighbours, which stand for all between two
 * literals, below and above; one value of every other type; and nothing. Undefined when there would be too many, or where
 * that cannot be said.
 */
export function candidatesFor(
  tests: readonly AttributeTest[],
  ignoresCase: boolean,
  neighbours: Neighbours,
): readonly unknown[] | undefined {
  const literals = tests.flatMap(({ literal }): readonly Literal[] =>
    literal.kind === "list" ? literal.items : [literal],
  );
  const lists = listCandidates(tests);
  const texts = textCandidates(tests, literals, ignoresCase);
  if (lists === undefined || texts === undefined) return undefined;
  const epochs = literals.flatMap((l) => (l.kind === "time" ? [l.value.epoch] : []));
  const numbers = literals.flatMap((l) => (l.kind === "number" ? [l.value] : l.kind === "time" ? [l.value.epoch] : []));
  const dates = epochs.flatMap((epoch) => [epoch - 1, epoch, epoch + 1]).map((epoch) => new Date(epoch));
  return [
    undefined,
    true,
    false,
    0,
    ...numbers.flatMap((number) => neighbours.of(number)),
    ...dates,
    ...texts,
    ...lists,
    { of: "another type" },
  ];
}

/**
 * Where some tests see the text as it stands and others in lower case, a text that differs from another in case only
 * matters as well; where versions or times are read of such a text, nothing is claimed.
 */
function textCandidates(
  tests: readonly AttributeTest[],
  literals: readonly Literal[],
  ignoresCase: boolean,
): string[] | undefined {
  const mentioned = literals.flatMap((l) => (l.kind === "text" ? [l.value] : []));
  const isLower = ({ operand }: AttributeTest) => operand.kind === "path" && operand.lower;
  const readsText = ({ kind }: Literal) => kind === "version" || kind === "time";
  const folds = ignoresCase || tests.some(isLower);
  const plain = ignoresCase ? literals.some(readsText) : !tests.every(isLower);
  const mixed = folds && plain && mentioned.length > 0;
  if (mixed && literals.some(readsText)) return undefined;
  const variants = mixed ? caseVariants(mentioned) : [];
  if (variants === undefined) return undefined;
  const texts = [...mentioned, ...mentioned.map((text) => text.toLowerCase()), ...variants];
  const versions = literals.flatMap((l) => (l.kind === "version" ? [l.value] : []));
  const epochs = literals.flatMap((l) => (l.kind === "time" ? [l.value.epoch] : []));
  return ["", freshText(texts), ...texts, ...versionCandidates(versions, mentioned), ...timeTexts(epochs, mentioned)];
}

/** Each instant, one before and one after, in a spelling of its own: times in texts go to the millisecond. */
function timeTexts(epochs: readonly number[], mentioned: readonly string[]): string[] {
  return epochs
    .flatMap((epoch) => [epoch - 1, epoch, epoch + 1])
    .filter((epoch) => Math.abs(epoch) <= 8.64e15)
    .map((epoch) => freshSpelling(new Date(epoch).toISOString(), mentioned))
    .filter((text) => !Number.isNaN(parseTime(text)));
}

/** An instant written in a way that no test mentions: with more digits of its fraction. */
function freshSpelling(iso: string, mentioned: readonly string[]): string {
  let text = iso;
  while (mentioned.includes(text)) text = text.replace("Z", "0Z");
  return text;
}

/** A text that equals none of those mentioned. */
function freshText(texts: readonly string[]): string {
  let fresh = "\u0001";
  while (texts.includes(fresh)) fresh += "\u0001";
  return fresh;
}

/** Each version, the next one above it, the lowest of all and a very high one, each in a spelling of its own. */
function versionCandidates(literals: readonly VersionLiteral[], mentioned: readonly string[]): string[] {
  if (literals.length === 0) return [];
  const high = [...literals].sort(compareVersions).at(-1)!;
  const versions = [...literals.map(full), ...literals.map(justAbove), "0.0.0-0", `${high.numbers[0]}9.0.0`];
  return versions.map((version) => freshBuild(version, mentioned)).filter((text) => parseVersion(text) !== undefined);
}

/** A version written in a way that no test mentions: the build part does not count. */
function freshBuild(version: string, mentioned: readonly string[]): string {
  let text = version;
  for (let i = 0; mentioned.includes(text); i++) text = `${version}+${i}`;
  return text;
}

function full({ numbers, prerelease }: VersionLiteral): string {
  return `${numbers.join(".")}${prerelease ? `-${prerelease.join(".")}` : ""}`;
}

/** The lowest version above another: one identifier more behind a prerelease, else the next patch's lowest. */
function justAbove(literal: VersionLiteral): string {
  if (literal.prerelease) return `${full(literal)}.0`;
  const [major, minor, patch] = literal.numbers;
  return `${major}.${minor}.${BigInt(patch) + 1n}-0`;
}

/** Every selection of the items that tests of lists mention; with another one where that could matter. */
function listCandidates(tests: readonly AttributeTest[]): unknown[][] | undefined {
  const items = new Set<unknown>();
  let others = false;
  for (const { operator, literal } of tests) {
    const telling = operators[operator].tellsApart(literal);
    others ||= telling.includes("lists with others");
    if (!telling.includes("lists of items") && !telling.includes("lists with others")) continue;
    for (const item of literal.kind === "list" ? literal.items : [literal]) {
      if (item.kind === "text" || item.kind === "number" || item.kind === "yes-no") items.add(item.value);
    }
  }
  if (items.size > maxItems) return undefined;
  const all = [...items];
  const lists = Array.from({ length: 1 << all.length }, (_, bits) => all.filter((_, i) => bits & (1 << i)));
  const other = freshText(all.filter((item) => typeof item === "string"));
  return others ? [...lists, ...lists.map((list) => [...list, other])] : lists;
}

/** Is a value of a declared type, or missing? */
export function fits(value: unknown, type: AttributeType): boolean {
  return value === undefined || (type === "time" && value instanceof Date) || isOfType(value, type);
}
