import { ToolError } from "../files/index.ts";
import type { FlagDefinition } from "../model/index.ts";
import { noShare, parseRisingStep, parseSplitPart } from "../source/index.ts";
import { didYouMean, isName, parseRange, sentenceList } from "../values/index.ts";

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
  throw new ToolError(`“${text}” is not a value of ${name}.`, `write ${wanted}`);
}

function variantName(text: string, flag: string, variants: ReadonlyMap<string, unknown>): string {
  if (variants.has(text)) return text;
  const help = didYouMean(text, variants.keys()) ?? `write ${sentenceList([...variants.keys()], "or")}`;
  throw new ToolError(`“${text}” is not a variant of ${flag}.`, help);
}

/** `25%`, `20% to 45%` or `none`; or the steps of one that rises: `1% from 2026-12-01T09:00, 25% from 2026-12-04T09:00`. */
export function shareValue(text: string): string | { readonly rising: readonly string[] } {
  if (text === noShare || parseRange(text)) return text;
  const steps = text.split(",").map((step) => step.trim());
  if (steps.every((step) => parseRisingStep(step))) return { rising: steps };
  const help = parseRange(`${text}%`)
    ? `write ${text}%`
    : "write 25%, 20% to 45%, steps such as 1% from 2026-12-01T09:00, or none to take the share out";
  throw new ToolError(`“${text}” is not a share.`, help);
}

/** A value of a flag that has no type yet: JSON where it is some, else a text. */
export function freeValue(text: string): unknown {
  const value = jsonOf(text);
  return value === undefined || value === null ? text : value;
}

/** `classic=list, deck=deck-plan` as a file holds variants. */
export function variantValues(text: string): Readonly<Record<string, unknown>> {
  const pairs = text.split(",").map((piece) => {
    const equals = piece.indexOf("=");
    const name = piece.slice(0, Math.max(0, equals)).trim();
    if (isName(name)) return [name, freeValue(piece.slice(equals + 1).trim())] as const;
    throw new ToolError(`“${piece.trim()}” is not a variant.`, "write classic=list, deck=deck-plan");
  });
  return Object.fromEntries(pairs);
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
