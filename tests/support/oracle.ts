import type { LiteralTree, OperandTree, Tree } from "./generated.ts";

/**
 * A slow and obvious interpreter of the format, written apart from the library: it walks trees, parses everything anew
 * each time, and hashes bytes. What both say of thousands of random sets must be the same.
 */
export type Three = true | false | "undecided";

export interface OracleRule {
  readonly name?: string;
  readonly when?: Tree;
  /** Low and high bound, in percent. */
  readonly share?: readonly [number, number];
  readonly rising?: readonly { readonly percent: number; readonly from: number }[];
  readonly give?: unknown;
  readonly split?: readonly { readonly parts: number; readonly variant: string }[];
  readonly salt?: string;
}

export interface OracleAdjustment {
  readonly share?: readonly [number, number] | "none";
  readonly give?: unknown;
  readonly split?: OracleRule["split"];
}

export interface OracleFlag {
  readonly safe: unknown;
  readonly variants?: Readonly<Record<string, unknown>>;
  readonly provided?: Tree;
  readonly rules: readonly OracleRule[];
  readonly otherwise?: unknown;
  readonly by: readonly string[];
  readonly suspended: boolean;
  readonly environments: Readonly<
    Record<
      string,
      {
        readonly provided?: Tree;
        readonly rules?: readonly OracleRule[];
        readonly adjust?: Readonly<Record<string, OracleAdjustment>>;
        readonly otherwise?: unknown;
      }
    >
  >;
}

export interface OracleSet {
  readonly flags: Readonly<Record<string, OracleFlag>>;
  readonly cohorts: Readonly<
    Record<
      string,
      | { readonly when: Tree }
      | { readonly of: readonly string[]; readonly ids: readonly string[] }
      | { readonly by: readonly string[]; readonly share: readonly [number, number]; readonly salt?: string }
    >
  >;
  readonly windows: Readonly<Record<string, { readonly from?: number; readonly until?: number }>>;
  /** The first keys of attributes whose tests take upper and lower case alike. */
  readonly folded?: readonly string[];
}

export interface Asking {
  readonly set: OracleSet;
  readonly context: unknown;
  readonly at: number;
  readonly environment: string;
}

export function judge(name: string, asking: Asking): { value: unknown; cause: string; rule: number | undefined } {
  const flag = asking.set.flags[name]!;
  const value = (given: unknown) => (flag.variants ? flag.variants[given as string] : given);
  if (flag.suspended) return { value: value(flag.safe), cause: "suspended", rule: undefined };
  const here = flag.environments[asking.environment];
  for (const condition of [flag.provided, here?.provided]) {
    if (condition && answer(condition, asking) !== true)
      return { value: value(flag.safe), cause: "withheld", rule: undefined };
  }
  for (const [i, written] of (here?.rules ?? flag.rules).entries()) {
    const rule = adjusted(written, here?.adjust?.[written.name ?? ""]);
    if (rule.when && answer(rule.when, asking) !== true) continue;
    const given = given_(rule, flag, name, asking);
    if (given !== undefined) return { value: value(given), cause: "rule", rule: i + 1 };
  }
  return { value: value(here?.otherwise ?? flag.otherwise ?? flag.safe), cause: "otherwise", rule: undefined };
}

function adjusted(rule: OracleRule, by: OracleAdjustment | undefined): OracleRule {
  if (!by) return rule;
  const result: Record<string, unknown> = { ...rule };
  if (by.share !== undefined) {
    delete result["share"];
    delete result["rising"];
    if (by.share !== "none") result["share"] = by.share;
  }
  if (by.give !== undefined || by.split !== undefined) {
    delete result["give"];
    delete result["split"];
    if (by.split) result["split"] = by.split;
    else result["give"] = by.give;
  }
  return result as OracleRule;
}

function given_(rule: OracleRule, flag: OracleFlag, name: string, asking: Asking): unknown {
  if (rule.share === undefined && !rule.rising && !rule.split) return rule.give;
  const id = asId(read(asking.context, flag.by));
  if (id === undefined) return undefined;
  const salt = rule.salt ?? name;
  let [low, high] = rule.share ?? [0, 100];
  if (rule.rising) {
    [low, high] = [0, 0];
    for (const step of rule.rising) if (asking.at >= step.from) high = step.percent;
  }
  if (!isWithin("share", salt, id, low, high)) return undefined;
  if (!rule.split) return rule.give;
  let best: { time: number; variant: string } | undefined;
  for (const { parts, variant } of rule.split) {
    if (parts === 0) continue;
    const time = -Math.log((hash("split", `${salt}:${variant}`, id) + 0.5) / 4294967296) / parts;
    if (!best || time < best.time || (time === best.time && variant < best.variant)) best = { time, variant };
  }
  return best!.variant;
}

function isWithin(purpose: string, salt: string, id: string, low: number, high: number): boolean {
  const position = hash(purpose, salt, id) / 4294967296;
  return low / 100 <= position && position < high / 100;
}

export function answer(tree: Tree, asking: Asking): Three {
  switch (tree.kind) {
    case "and": {
      const answers = tree.parts.map((part) => answer(part, asking));
      return answers.includes(false) ? false : answers.includes("undecided") ? "undecided" : true;
    }
    case "or": {
      const answers = tree.parts.map((part) => answer(part, asking));
      return answers.includes(true) ? true : answers.includes("undecided") ? "undecided" : false;
    }
    case "not": {
      const inner = answer(tree.part, asking);
      return inner === "undecided" ? inner : !inner;
    }
    case "reference":
      return tree.to === "cohort" ? inCohort(tree.name, asking) : inWindow(tree.name, asking);
    case "test":
      return foldedTest(tree, asking) ?? test(seen(tree.operand, tree.operator, asking), tree.operator, tree.literal);
  }
}

/** The same test of everything in lower case, where case does not count. */
function foldedTest(tree: Extract<Tree, { kind: "test" }>, asking: Asking): Three | undefined {
  const { operand, operator, literal } = tree;
  if (operand.kind !== "path" || !asking.set.folded?.includes(operand.path[0]!)) return undefined;
  if (literal?.kind === "version" || literal?.kind === "time" || operator.startsWith("is ")) return undefined;
  const lower = (value: unknown) => (typeof value === "string" ? value.toLowerCase() : value);
  const value = seen(operand, operator, asking);
  if (literal?.kind === "regex") return test(value, operator, { ...literal, ignoreCase: true });
  const folded = Array.isArray(value) ? value.map(lower) : lower(value);
  if (literal?.kind === "scalar")
    return test(folded, operator, { kind: "scalar", value: lower(literal.value) as string });
  if (literal?.kind === "list")
    return test(folded, operator, { kind: "list", values: literal.values.map(lower) as string[] });
  return undefined;
}

function inCohort(name: string, asking: Asking): Three {
  const cohort = asking.set.cohorts[name]!;
  if ("when" in cohort) return answer(cohort.when, asking);
  if ("share" in cohort) {
    const drawn = asId(read(asking.context, cohort.by));
    return drawn === undefined ? "undecided" : isWithin("cohort", cohort.salt ?? name, drawn, ...cohort.share);
  }
  const id = asId(read(asking.context, cohort.of));
  return id === undefined ? "undecided" : cohort.ids.includes(id);
}

function inWindow(name: string, asking: Asking): Three {
  const { from = Number.NEGATIVE_INFINITY, until = Number.POSITIVE_INFINITY } = asking.set.windows[name]!;
  return from <= asking.at && asking.at < until;
}

function seen(operand: OperandTree, operator: string, asking: Asking): unknown {
  if (operand.kind === "environment") return asking.environment;
  if (operand.kind === "flag") return judge(operand.name, asking).value;
  const value = read(asking.context, operand.path);
  if (!operand.lower || operator.startsWith("is ")) return value;
  return typeof value === "string" ? value.toLowerCase() : undefined;
}

function read(context: unknown, path: readonly string[]): unknown {
  let value = context;
  for (const key of path) {
    if (typeof value !== "object" || value === null || Array.isArray(value) || value instanceof Date) return undefined;
    if (!Object.hasOwn(value, key)) return undefined;
    value = (value as Record<string, unknown>)[key];
  }
  return value ?? undefined;
}

function asId(value: unknown): string | undefined {
  if (typeof value === "string" && value !== "") return value;
  if (typeof value === "bigint" || Number.isSafeInteger(value)) return String(value);
  return undefined;
}

function test(value: unknown, operator: string, literal: LiteralTree | undefined): Three {
  if (operator === "is missing") return value === undefined;
  if (operator === "is present") return value !== undefined;
  if (value === undefined) return "undecided";
  if (operator === "") return typeof value === "boolean" ? value : "undecided";
  switch (operator) {
    case "!=": {
      const equal = test(value, "==", literal);
      return equal === "undecided" ? equal : !equal;
    }
    case "not in": {
      const among = test(value, "in", literal);
      return among === "undecided" ? among : !among;
    }
    case "matches":
      if (typeof value !== "string" || literal?.kind !== "regex") return "undecided";
      return new RegExp(literal.pattern, literal.ignoreCase ? "i" : "").test(value);
  }
  if (literal?.kind === "version" || literal?.kind === "time") return ordered(value, operator, literal);
  if (literal?.kind === "list") return listTest(value, operator, literal.values);
  if (literal?.kind !== "scalar") return "undecided";
  return scalarTest(value, operator, literal.value);
}

function scalarTest(value: unknown, operator: string, literal: string | number | boolean): Three {
  if (operator === "contains" && Array.isArray(value)) return value.some((item) => item === literal);
  if (typeof value !== typeof literal || (typeof value === "number" && !Number.isFinite(value))) return "undecided";
  switch (operator) {
    case "==":
      return value === literal;
    case "<":
      return (value as number) < (literal as number);
    case "<=":
      return (value as number) <= (literal as number);
    case ">":
      return (value as number) > (literal as number);
    case ">=":
      return (value as number) >= (literal as number);
  }
  if (typeof value !== "string") return "undecided";
  if (operator === "contains") return value.includes(String(literal));
  return operator === "starts with" ? value.startsWith(String(literal)) : value.endsWith(String(literal));
}

function listTest(value: unknown, operator: string, items: readonly unknown[]): Three {
  if (operator === "in") {
    if (typeof value !== typeof items[0] || (typeof value === "number" && !Number.isFinite(value))) return "undecided";
    return items.includes(value);
  }
  if (!Array.isArray(value)) return "undecided";
  const has = (item: unknown) => value.some((held) => held === item);
  return operator === "overlaps" ? items.some(has) : items.every(has);
}

function ordered(value: unknown, operator: string, literal: { kind: "version" | "time"; text: string }): Three {
  const difference =
    literal.kind === "time" ? instant(value) - instant(literal.text) : versionDifference(value, literal.text);
  if (Number.isNaN(difference)) return "undecided";
  switch (operator) {
    case "==":
      return difference === 0;
    case "<":
      return difference < 0;
    case "<=":
      return difference <= 0;
    case ">":
      return difference > 0;
    default:
      return difference >= 0;
  }
}

function instant(value: unknown): number {
  if (typeof value === "number") return Number.isFinite(value) ? value : Number.NaN;
  if (value instanceof Date) return value.getTime();
  if (typeof value !== "string" || !/^\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d(\.\d+)?)?(Z|[+-]\d\d:\d\d)$/.test(value))
    return Number.NaN;
  return Date.parse(value);
}

function versionDifference(value: unknown, literal: string): number {
  const [a, b] = [version(value), version(literal)];
  if (!a || !b) return Number.NaN;
  for (let i = 0; i < 3; i++) if (a.numbers[i] !== b.numbers[i]) return a.numbers[i]! - b.numbers[i]!;
  if (!a.rest || !b.rest) return a.rest ? -1 : b.rest ? 1 : 0;
  for (let i = 0; i < Math.max(a.rest.length, b.rest.length); i++) {
    const [x, y] = [a.rest[i], b.rest[i]];
    if (x === undefined || y === undefined) return x === undefined ? -1 : 1;
    if (x === y) continue;
    const [xn, yn] = [/^\d+$/.test(x), /^\d+$/.test(y)];
    if (xn && yn) return Number(x) - Number(y);
    if (xn !== yn) return xn ? -1 : 1;
    return x < y ? -1 : 1;
  }
  return 0;
}

function version(value: unknown): { numbers: number[]; rest: string[] | undefined } | undefined {
  if (typeof value !== "string") return undefined;
  const m = /^v?(\d+)(?:\.(\d+)(?:\.(\d+)(?:-([0-9A-Za-z.-]+))?)?)?$/.exec(value);
  if (!m || [m[1], m[2], m[3]].some((part) => part !== undefined && /^0\d/.test(part))) return undefined;
  return { numbers: [m[1], m[2] ?? 0, m[3] ?? 0].map(Number), rest: m[4]?.split(".") };
}

/** MurmurHash3 x86 32-bit over bytes, as published. */
export function murmur(bytes: Uint8Array, seed: number): number {
  const rotate = (x: number, r: number) => (x << r) | (x >>> (32 - r));
  const scramble = (k: number) => Math.imul(rotate(Math.imul(k, 0xcc9e2d51), 15), 0x1b873593);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length);
  let h = seed;
  let i = 0;
  for (; i + 4 <= bytes.length; i += 4) h = Math.imul(rotate(h ^ scramble(view.getInt32(i, true)), 13), 5) + 0xe6546b64;
  let tail = 0;
  for (let j = bytes.length - 1; j >= i; j--) tail = (tail << 8) | bytes[j]!;
  if (i < bytes.length) h ^= scramble(tail);
  h ^= bytes.length;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

/** Purpose and salt, filled up with zero bytes to a multiple of four, and the id behind them. */
export function hash(purpose: string, salt: string, id: string): number {
  const encode = (text: string) => [...new TextEncoder().encode(text)];
  const front = encode(`${purpose}:${salt}`);
  while (front.length % 4 !== 0) front.push(0);
  return murmur(new Uint8Array([...front, ...encode(id)]), 0);
}
