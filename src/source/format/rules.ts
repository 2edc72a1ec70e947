import { show } from "../../values/index.ts";
import { field, object } from "../object-shape.ts";
import { anyValue, listOf, type TypeOf, text } from "../shape.ts";
import type { Walk } from "../walk.ts";
import { adjustedShare, salt, share, splitPart } from "./shares.ts";
import { condition, path } from "./texts.ts";

// Rules, and what an environment puts in their place.

const longestRuleName = 200;

const ruleName = text({
  expected: "a name of 1 to 200 characters on one line",
  schema: { minLength: 1, maxLength: longestRuleName, pattern: "^[^\\n\\r\\u2028\\u2029]*$" },
  isSound(value, walk) {
    if (value !== "" && value.length <= longestRuleName && !/[\n\r\u2028\u2029]/.test(value)) return true;
    walk.report("name-invalid", {
      message: value === "" ? "The name of a rule is not empty." : "The name of a rule is short, and on one line.",
      found: show(value),
      expected: "1 to 200 characters without a line break",
    });
    return false;
  },
});

const splitList = listOf(splitPart, { what: "parts", nonEmpty: true });

export const rule = object(
  {
    name: field(ruleName, "What people call the rule"),
    note: field(text(), "A remark for people"),
    when: field(condition, "The condition; everyone if left out. Stands before share, give and split"),
    share: field(share, "The share of subjects: 10%, a range such as 20% to 45%, or rising by date"),
    give: field(anyValue(), "The value, or the name of a variant"),
    split: field(splitList, "Variants by parts: [2 classic, 1 deck]"),
    by: field(path, "The attribute whose hash decides shares and splits"),
    salt,
  },
  { expected: "a rule", exactlyOne: ["give", "split"], isSound: warnOfLateCondition },
);

const afterCondition: ReadonlySet<string> = new Set(["share", "give", "split"]);

/** A half-written file must not widen a rule: what is cut off is never the condition. */
function warnOfLateCondition(value: object, walk: Walk): true {
  for (const key in value) {
    if (key === "when") break;
    if (!afterCondition.has(key)) continue;
    reportLateCondition(value, key, walk);
    break;
  }
  return true;
}

function reportLateCondition(value: object, early: string, walk: Walk): void {
  if (!Object.hasOwn(value, "when")) return;
  walk.inside("when", () =>
    walk.reportKey("late-condition", {
      message: `“when” stands after “${early}”.`,
      expected: "“when” before “share”, “give” and “split”",
      help: "move it up: a file that is cut off must not widen a rule",
    }),
  );
}

export const rules = field(listOf(rule, { what: "rules" }), "Asked in order; the first that matches decides");
export const provided = (text: string) => field(condition, text);
export const otherwise = field(anyValue(), "The value when no rule matches; the safe value if left out");

export const adjustment = object(
  {
    share: field(adjustedShare, "In place of the rule's share; none takes it away"),
    give: field(anyValue(), "In place of what the rule gives or splits"),
    split: field(splitList, "In place of what the rule gives or splits"),
  },
  { expected: "what stands in place of the rule's share, give or split", isSound: isAdjustment },
);

function isAdjustment(value: { readonly give?: unknown; readonly split?: unknown }, walk: Walk): boolean {
  const both = value.give !== undefined && value.split !== undefined;
  if (!both && Object.keys(value).length > 0) return true;
  walk.reportKey("not-exactly-one", {
    message: both ? "A rule gives or splits, not both." : "Nothing is adjusted here.",
    found: both ? "give and split" : "none of them",
    expected: both ? "one of give and split" : "at least one of share, give and split",
  });
  return false;
}

export type RuleSource = TypeOf<typeof rule>;
export type AdjustmentSource = TypeOf<typeof adjustment>;
