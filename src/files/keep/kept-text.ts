import yamlPackage from "yaml/package.json" with { type: "json" };
import { isJson, type ParsedText } from "../parse/parsed-file.ts";

/** A text with what was read of it, where reading took long and can be written down exactly. */
export interface KeptText {
  readonly text: string;
  readonly parsed?: { readonly data: unknown; readonly spellings: readonly (readonly [string, string])[] } | undefined;
}

/** Gives what was read of a text before, by its digest, if it is known. */
export type ParsedBefore = (file: string, sha256: () => string) => ParsedText | undefined;

/** Goes up whenever `yaml.ts` reads the same text into other data. */
const readerVersion = 1;

/** Who read the texts: what another edition has read is not taken over. */
export const parser = `${readerVersion} yaml ${yamlPackage.version}`;

/** What is kept of a file. JSON is parsed as fast as what would be kept in its place; faults are found anew. */
export function kept(file: string, text: string, { data, spellings, faults }: ParsedText): KeptText {
  if (isJson(file) || faults.length > 0 || !isExact(data, new Set())) return { text };
  return { text, parsed: { data, spellings: [...spellings] } };
}

export function parsedOf({ parsed }: KeptText): ParsedText | undefined {
  return parsed && { data: parsed.data, spellings: new Map(parsed.spellings), faults: [] };
}

/** Whether JSON gives the very same data back, and no longer than the text: nothing in it twice, by a YAML alias. */
function isExact(value: unknown, seen: Set<object>): boolean {
  switch (typeof value) {
    case "string":
    case "boolean":
      return true;
    case "number":
      return Number.isFinite(value) && !Object.is(value, -0);
    case "object":
      break;
    default:
      return false;
  }
  if (value === null) return true;
  if (seen.has(value)) return false;
  seen.add(value);
  return Object.values(value).every((member) => isExact(member, seen));
}
