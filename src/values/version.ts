/**
 * Semantic versions by the precedence rules of Semantic Versioning 2.0.0 (section 11), with a leading `v` allowed and
 * missing parts read as 0. The build part is ignored.
 */
export interface VersionLiteral {
  readonly source: string;
  /** Decimal digits without leading zeros, so that numbers of any length compare exactly. */
  readonly numbers: readonly [string, string, string];
  /** `numbers` as small integers, for the fast path; undefined when one is long, or something stands behind them. */
  readonly plain: PlainVersion | undefined;
  readonly prerelease: readonly string[] | undefined;
}

interface PlainVersion {
  readonly major: number;
  readonly minor: number;
  readonly patch: number;
}

const number = "(0|[1-9][0-9]*)";
const identifier = "(?:0|[1-9][0-9]*|[0-9]*[A-Za-z-][0-9A-Za-z-]*)";
const build = "(?:\\+[0-9A-Za-z-]+(?:\\.[0-9A-Za-z-]+)*)?";
const pattern = new RegExp(
  `^v?${number}(?:\\.${number}(?:\\.${number}(?:-(${identifier}(?:\\.${identifier})*))?)?)?${build}$`,
);

/** Versions longer than this are unreadable; it bounds the work that a hostile context can cause. */
const longestVersion = 256;

export function parseVersion(text: string): VersionLiteral | undefined {
  if (text.length > longestVersion) return undefined;
  const match = pattern.exec(text);
  if (!match) return undefined;
  const numbers = [match[1] ?? "0", match[2] ?? "0", match[3] ?? "0"] as const;
  const prerelease = match[4]?.split(".");
  return { source: text, numbers, plain: prerelease ? undefined : plainOf(numbers), prerelease };
}

function plainOf(numbers: VersionLiteral["numbers"]): PlainVersion | undefined {
  const [major, minor, patch] = numbers;
  const isLong = major.length > maxDigits || minor.length > maxDigits || patch.length > maxDigits;
  return isLong ? undefined : { major: Number(major), minor: Number(minor), patch: Number(patch) };
}

/** Negative, 0 or positive; NaN when `text` is not a version. */
export function compareWithVersion(text: string, literal: VersionLiteral): number {
  const { plain } = literal;
  const quick = plain === undefined ? notPlain : comparePlain(text, plain);
  if (quick !== notPlain) return quick;
  const version = parseVersion(text);
  return version === undefined ? Number.NaN : compareVersions(version, literal);
}

const notPlain = 2 ** 30;
const maxDigits = 9;
const largestBeforeADigit = 10 ** (maxDigits - 1);
/** What “.” is when read as a digit. */
const dot = 46 - 48;

/**
 * The common case without an allocation: one to three numbers of few digits, `12.3.4`, against a literal that is as
 * plain. Everything else, valid or not, is `notPlain`. All in one loop over small integers, which is what engines do best.
 */
function comparePlain(text: string, literal: PlainVersion): number {
  const length = text.length;
  let order = 0;
  let part = 0;
  // Below 0 until the part has a digit.
  let value = -1;
  for (let i = length > 0 && text.charCodeAt(0) === 118 ? 1 : 0; i < length; i++) {
    const digit = text.charCodeAt(i) - 48;
    if (digit === dot) {
      if (value < 0 || part === 2) return notPlain;
      if (order === 0) order = value - (part === 0 ? literal.major : literal.minor);
      part++;
      value = -1;
    } else {
      if (digit < 0 || digit > 9 || value === 0 || value >= largestBeforeADigit) return notPlain;
      value = value < 0 ? digit : value * 10 + digit;
    }
  }
  if (value < 0) return notPlain;
  if (order !== 0) return order;
  if (part === 0) return value - literal.major || -literal.minor || -literal.patch;
  if (part === 1) return value - literal.minor || -literal.patch;
  return value - literal.patch;
}

export function compareVersions(a: VersionLiteral, b: VersionLiteral): number {
  for (let i = 0; i < 3; i++) {
    const order = compareNumbers(a.numbers[i as 0], b.numbers[i as 0]);
    if (order !== 0) return order;
  }
  return comparePrereleases(a.prerelease, b.prerelease);
}

function compareNumbers(a: string, b: string): number {
  if (a.length !== b.length) return a.length - b.length;
  return a < b ? -1 : a > b ? 1 : 0;
}

function comparePrereleases(a: readonly string[] | undefined, b: readonly string[] | undefined): number {
  if (a === undefined || b === undefined) return a === b ? 0 : a === undefined ? 1 : -1;
  for (let i = 0; i < Math.min(a.length, b.length); i++) {
    const order = compareIdentifiers(a[i]!, b[i]!);
    if (order !== 0) return order;
  }
  return a.length - b.length;
}

function compareIdentifiers(a: string, b: string): number {
  const aIsNumber = /^[0-9]+$/.test(a);
  const bIsNumber = /^[0-9]+$/.test(b);
  if (aIsNumber && bIsNumber) return compareNumbers(a, b);
  if (aIsNumber !== bIsNumber) return aIsNumber ? -1 : 1;
  return a < b ? -1 : a > b ? 1 : 0;
}
