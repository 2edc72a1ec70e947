import { Scalar, stringify } from "yaml";

// How values are written, on a line or on lines of their own.

/** A value as it can stand anywhere on a line; a text keeps the quotes that the one before it had. */
export function inline(value: unknown, style?: Scalar.Type): string {
  if (typeof value === "string" && style === Scalar.QUOTE_DOUBLE) return JSON.stringify(value);
  if (typeof value === "string" && style === Scalar.QUOTE_SINGLE && !/[\n\r]/.test(value)) {
    return `'${value.replaceAll("'", "''")}'`;
  }
  if (Array.isArray(value)) return `[${value.map((item) => inline(item)).join(", ")}]`;
  if (typeof value !== "object" || value === null) return scalar(value);
  const pairs = Object.entries(value).map(([key, member]) => inlinePair(key, member));
  return pairs.length === 0 ? "{}" : `{ ${pairs.join(", ")} }`;
}

/** An object as the item of a block list: a key a line. */
export function itemLines(value: unknown): string[] {
  if (typeof value !== "object" || value === null || Array.isArray(value)) return [`- ${inline(value)}`];
  const lines = Object.entries(value).flatMap(([key, member]) => pairLines(key, member));
  return lines.map((line, i) => `${i === 0 ? "- " : "  "}${line}`);
}

/** Written inside a list, so that commas and brackets are quoted where they must be. */
function scalar(value: unknown): string {
  if (typeof value === "string" && /[\n\r]/.test(value)) return JSON.stringify(value);
  return stringify([value], { collectionStyle: "flow", lineWidth: 0, flowCollectionPadding: false })
    .trim()
    .slice(1, -1);
}

export function inlinePair(key: string, value: unknown): string {
  return `${scalar(key)}: ${inline(value)}`;
}

/** Long values take lines of their own. */
const longestInline = 120;

export function pairLines(key: string, value: unknown, isSpread = false): string[] {
  const short = inlinePair(key, value);
  if (typeof value !== "object" || value === null) return [short];
  if (isSpread && Array.isArray(value) && value.length > 0 && value.every(isHolder))
    return [`${scalar(key)}:`, ...value.flatMap((item) => itemLines(item).map((line) => `  ${line}`))];
  if (isSpread && !Array.isArray(value)) return [`${scalar(key)}:`, ...spreadLines(value)];
  if (short.length <= longestInline) return [short];
  return stringify({ [key]: value }, { lineWidth: 0 })
    .trimEnd()
    .split("\n");
}

function isHolder(value: unknown): boolean {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}

/** The keys of an object, a line each; an object that holds but one key with an object is a section, and opened too. */
function spreadLines(value: object): string[] {
  const entries = Object.entries(value);
  const isSection = entries.length === 1 && typeof entries[0]![1] === "object" && !Array.isArray(entries[0]![1]);
  return entries.flatMap(([key, member]) => pairLines(key, member, isSection)).map((line) => `  ${line}`);
}
