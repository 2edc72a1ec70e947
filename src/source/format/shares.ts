import { parsePercent, parseRange, shareSource, showPercent } from "../../values/index.ts";
import { field, object, required } from "../object-shape.ts";
import { byKind, listOf, name, type Shape, type TypeOf, text } from "../shape.ts";
import { parseSplitPart } from "../split.ts";

import { zone } from "./texts.ts";

// Shares and splits.

const writePercent = (value: unknown) =>
  typeof value === "number" && value >= 0 && value <= 100 ? `write ${showPercent(value)}` : undefined;

export const plainShare = text({
  expected: "a percentage such as 10%, or a range such as 20% to 45%",
  schema: { pattern: shareSource },
  help: writePercent,
  isSound(value, walk) {
    if (parseRange(value) !== null) return true;
    walk.report("share-invalid", {
      message: `“${value}” is not a share.`,
      found: value,
      expected: "a percentage from 0% to 100%, the sign included, or a range such as 20% to 45%",
      help: helpForShare(value),
    });
    return false;
  },
});

function helpForShare(value: string): string | undefined {
  const bounds = /^\s*([0-9.]+)\s*%?\s*(?:-|–|to|\.\.)\s*([0-9.]+)\s*%?\s*$/.exec(value)?.slice(1).map(Number);
  if (bounds && parseRange(`${bounds[0]}% to ${bounds[1]}%`)) return `write ${bounds[0]}% to ${bounds[1]}%`;
  if (bounds) return "the second bound of a range is greater than the first";
  return value.trim() === "" ? undefined : writePercent(Number(value.replace("%", "")));
}

/** A step of a rising share: "25% from 2026-12-04T09:00". */
export function parseRisingStep(value: string): { percent: number; instant: string; offset: number } | undefined {
  const match = /^(\S+) +from +(\S+)$/.exec(value);
  const parsed = match ? parsePercent(match[1]!) : undefined;
  if (!match || parsed === undefined) return undefined;
  return { percent: parsed, instant: match[2]!, offset: value.length - match[2]!.length };
}

const risingStep = text({
  expected: "a step such as 25% from 2026-12-04T09:00",
  isSound(value, walk) {
    if (parseRisingStep(value)) return true;
    walk.report("share-invalid", {
      message: `“${value}” is not a step of a rising share.`,
      found: value,
      expected: "a percentage, “from” and an instant: 25% from 2026-12-04T09:00",
    });
    return false;
  },
});

export const splitPart = text({
  expected: "parts and a variant, such as 2 classic",
  isSound(value, walk) {
    if (parseSplitPart(value)) return true;
    walk.report("split-invalid", {
      message: `“${value}” is no part of a split.`,
      found: value,
      expected: "a number of parts (0 or more), a blank and a variant: 2 classic",
    });
    return false;
  },
});

const risingShare = object(
  {
    rising: required(
      listOf(risingStep, { what: "steps", nonEmpty: true }),
      "Steps by date, each “percent from instant”",
    ),
    zone,
  },
  { expected: "a rising share" },
);

export type RisingSource = TypeOf<typeof risingShare>;

export type ShareSource = string | RisingSource;

export const share: Shape<ShareSource> = byKind<ShareSource>(
  { text: plainShare, object: risingShare },
  { expected: "a percentage such as 10%, a range such as 20% to 45%, or { rising: […] }", help: writePercent },
);

/** What takes a rule's share away in one environment. */
export const noShare = "none";

export const adjustedShare: Shape<ShareSource> = {
  expected: `${share.expected}, or none`,
  schema: { anyOf: [{ const: noShare }, share.schema] },
  read: (value, walk) => (value === noShare ? noShare : share.read(value, walk)),
};

export const salt = field(name("a salt"), "Text that the hash is mixed with; keep it when a flag is renamed");
