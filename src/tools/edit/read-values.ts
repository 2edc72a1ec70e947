import type { FlagDefinition } from "../../model/index.ts";
import { noShare, parseSplitPart } from "../../source/index.ts";
import { didYouMean, parseRange, sentenceList } from "../../values/index.ts";
import { ToolError } from "../tool-error.ts";

/** A value that a flag can give, or the name of a variant, as somebody wrote it on the command line. */
export function givenValue(text: string, { type, variants, name }: FlagDefinition): unknown {
  if (variants) return variantName(text, name, variants);
  if (type === "text") return text;
  const value = jsonOf(text);
  const fits = {
    "yes-no": typeof value === "boolean",
    number: typeof value === "number",
    data: typeof value === "object" && value !== null,
  }[type];
  if (fits) return value;
  const wanted = { "yes-no": "true or false", number: "a number", data: "a JSON list or object" }[type];
  throw new ToolError(`“${text}” is no value of ${name}.`, `write ${wanted}`);
}

function variantName(text: string, flag: string, variants: ReadonlyMap<string, unknown>): string {
  if (variants.has(text)) return text;
  const help = didYouMean(text, variants.keys()) ?? `write ${sentenceList([...variants.keys()], "or")}`;
  throw new ToolError(`“${text}” is no variant of ${flag}.`, help);
}

/** `25%`, `20% to 45%` or `none`. */
export function shareText(text: string): string {
  if (text === noShare || parseRange(text)) return text;
  const help = parseRange(`${text}%`) ? `write ${text}%` : "write 25%, 20% to 45%, or none to take the share out";
  throw new ToolError(`“${text}” is no share.`, help);
}

/** `2 classic, 1 deck` as a file holds it. */
export function splitTexts(text: string, { name, variants }: FlagDefinition): readonly string[] {
  if (!variants) throw new ToolError(`${name} has no variants to divide between.`, "set --give");
  return text.split(",").map((piece) => {
    const part = parseSplitPart(piece.trim());
    if (!part) throw new ToolError(`“${piece.trim()}” is no part of a split.`, 'write --split "2 classic, 1 deck"');
    variantName(part.variant, name, variants);
    return piece.trim();
  });
}

function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
