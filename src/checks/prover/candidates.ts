import type { AttributeTest, Literal } from "../../language/tree.ts";
import { isOfType } from "../../model/attribute-type.ts";
import type { AttributeType } from "../../model/types.ts";
import { parseTime } from "../../values/time.ts";
import { compareVersions, parseVersion, type VersionLiteral } from "../../values/version.ts";

/** More items than this would make too many different lists. */
const mostItems = 7;

/**
 * Values of one attribute such that, if any value gives the tests certain answers, one of these does (tests for parts of
 * a text aside). Every literal is among them, and for ordered ones a value in each gap, below and above; one value of
 * every other type; and nothing. Undefined when there would be too many.
 */
export function candidatesFor(tests: readonly AttributeTest[]): readonly unknown[] | undefined {
  const literals = tests.flatMap(({ literal }): readonly Literal[] =>
    literal.kind === "list" ? literal.items : [literal],
  );
  const lists = listCandidates(tests);
  if (lists === undefined) return undefined;
  const epochs = around(literals.flatMap((l) => (l.kind === "time" ? [l.value.epoch] : [])));
  const numbers = around(
    literals.flatMap((l) => (l.kind === "number" ? [l.value] : l.kind === "time" ? [l.value.epoch] : [])),
  );
  return [
    undefined,
    true,
    false,
    ...numbers,
    ...epochs.map((epoch) => new Date(epoch)),
    ...textCandidates(literals, epochs),
    ...lists,
    { of: "another type" },
  ];
}

/** The points themselves, one between each two neighbours, one below and one above all. */
function around(points: readonly number[]): number[] {
  const sorted = [...new Set(points)].sort((a, b) => a - b);
  if (sorted.length === 0) return [0];
  const between = sorted.slice(1).map((point, i) => (point + sorted[i]!) / 2);
  return [sorted[0]! - 1, ...sorted, ...between, sorted.at(-1)! + 1];
}

function textCandidates(literals: readonly Literal[], epochs: readonly number[]): string[] {
  const texts = literals.flatMap((l) => (l.kind === "text" ? [l.value, l.value.toUpperCase()] : []));
  const versions = versionCandidates(literals.flatMap((l) => (l.kind === "version" ? [l.value] : [])));
  // Times in texts go to the millisecond, so a gap smaller than that holds none.
  const times = epochs.map((epoch) => timeText(Math.round(epoch))).filter((text) => !Number.isNaN(parseTime(text)));
  return ["", freshText(texts), ...texts, ...versions, ...times];
}

function timeText(epoch: number): string {
  return Math.abs(epoch) <= 8.64e15 ? new Date(epoch).toISOString() : "";
}

/** A text that equals none of those mentioned. */
function freshText(texts: readonly string[]): string {
  let fresh = "\u0001";
  while (texts.includes(fresh)) fresh += "\u0001";
  return fresh;
}

/** Each version, the next one above it, the lowest of all and a very high one, each in two spellings. */
function versionCandidates(literals: readonly VersionLiteral[]): string[] {
  if (literals.length === 0) return [];
  const spelt = literals.map((literal) => full(literal));
  const above = literals.map((literal) => justAbove(literal));
  const high = [...literals].sort(compareVersions).at(-1)!;
  const top = `${high.numbers[0]}9.0.0`;
  return [...spelt, ...above, "0.0.0-0", top]
    .flatMap((version) => [version, `${version}+other`])
    .filter((v) => parseVersion(v));
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

/** Every selection of the items that tests of lists mention. */
function listCandidates(tests: readonly AttributeTest[]): unknown[][] | undefined {
  const items = new Set<unknown>();
  for (const { operator, literal } of tests) {
    if (operator !== "contains" && operator !== "overlaps" && operator !== "covers") continue;
    for (const item of literal.kind === "list" ? literal.items : [literal]) {
      if (item.kind === "text" || item.kind === "number" || item.kind === "yes-no") items.add(item.value);
    }
  }
  if (items.size > mostItems) return undefined;
  const all = [...items];
  return Array.from({ length: 1 << all.length }, (_, bits) => all.filter((_, i) => bits & (1 << i)));
}

/** Is a value of a declared type, or missing? */
export function fits(value: unknown, type: AttributeType): boolean {
  return value === undefined || (type === "time" && value instanceof Date) || isOfType(value, type);
}
