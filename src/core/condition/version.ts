/**
 * Semantic versions by the precedence rules of Semantic Versioning 2.0.0 (section 11), with a leading `v` allowed and
 * missing parts read as 0. The build part is ignored.
 */
export interface VersionLiteral {
  readonly source: string;
  /** Decimal digits without leading zeros, so that numbers of any length compare exactly. */
  readonly numbers: readonly [string, string, string];
  /** The first three parts as numbers, for the fast path; NaN when one is too long to be exact. */
  readonly major: number;
  readonly minor: number;
  readonly patch: number;
  readonly prerelease: readonly string[] | undefined;
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
  const exact = numbers.every((digits) => digits.length <= 15);
  return {
    source: text,
    numbers,
    major: exact ? Number(numbers[0]) : Number.NaN,
    minor: exact ? Number(numbers[1]) : Number.NaN,
    patch: exact ? Number(numbers[2]) : Number.NaN,
    prerelease: match[4]?.split("."),
  };
}

/** Negative, 0 or positive; NaN when `text` is no version. */
export function compareWithVersion(text: string, literal: VersionLiteral): number {
  const quick = compareDigits(text, literal);
  return Number.isNaN(quick) ? compareSlowly(text, literal) : quick;
}

/**
 * The common case without an allocation: `12.3.4`, digits and dots only. NaN sends everything else, valid or not, to
 * the slow path.
 */
function compareDigits(text: string, literal: VersionLiteral): number {
  const length = text.length;
  let end = readPart(text, text.charCodeAt(0) === 118 ? 1 : 0);
  const major = part;
  let minor = 0;
  let patch = 0;
  if (end < length) {
    end = readPart(text, end + 1);
    minor = part;
    if (end < length) {
      end = readPart(text, end + 1);
      patch = part;
    }
  }
  return end === length ? compareParts(major, minor, patch, literal) : Number.NaN;
}

/** The number that `readPart` read last. */
let part = 0;

/**
 * Reads one number into `part`: one to fifteen digits, which a double holds exactly, without a leading zero. Gives the
 * offset of the dot behind it, or the end; where there is no such number, an offset beyond any end.
 */
function readPart(text: string, start: number): number {
  const length = text.length;
  let value = 0;
  let i = start;
  let digit = 0;
  while (i < length) {
    digit = text.charCodeAt(i) - 48;
    if (digit < 0 || digit > 9) break;
    value = value * 10 + digit;
    i++;
  }
  part = value;
  const digits = i - start;
  const isNumber = digits === 1 || (digits > 1 && digits <= 15 && text.charCodeAt(start) !== 48);
  return isNumber && (i === length || digit === dot) ? i : beyond;
}

/** What "." is when read as a digit. */
const dot = 46 - 48;
const beyond = 2 ** 30;

function compareParts(major: number, minor: number, patch: number, literal: VersionLiteral): number {
  if (major !== literal.major) return major - literal.major;
  if (minor !== literal.minor) return minor - literal.minor;
  if (patch !== literal.patch) return patch - literal.patch;
  return literal.prerelease === undefined ? 0 : 1;
}

function compareSlowly(text: string, literal: VersionLiteral): number {
  const version = parseVersion(text);
  return version === undefined ? Number.NaN : compareVersions(version, literal);
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
