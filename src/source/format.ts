import { isDateText, parseHours } from "../calendar/index.ts";
import { type AttributeTypeName, attributeTypes, parsePath } from "../language/index.ts";
import { inText, type ProblemDetails } from "../problems/index.ts";
import {
  isObject,
  limits,
  parsePercent,
  parseRange,
  parseTime,
  shareSource,
  show,
  showPercent,
} from "../values/index.ts";
import { isPlainValue } from "./plain.ts";
import {
  anyContext,
  anyValue,
  byKind,
  field,
  listOf,
  name,
  object,
  oneOf,
  record,
  required,
  type Shape,
  type TypeOf,
  text,
  yesNo,
} from "./shape.ts";
import { parseSplitPart } from "./split.ts";
import type { Walk } from "./walk.ts";

/** The tables of the format: every key of a definition file, said once. */

const condition = text({
  expected: "a condition",
  isSound(value, walk) {
    if (value.trim() !== "") return true;
    walk.report("condition-empty", {
      message: "This condition is empty.",
      help: "leave the key out if everyone is meant",
    });
    return false;
  },
});

const path = text({
  expected: "the path of an attribute, such as account.id",
  isSound(value, walk) {
    const { fault } = parsePath(value);
    if (!fault) return true;
    walk.problems.report("path-invalid", inText(walk.place(), fault.span), notAPath(value));
    return false;
  },
});

function notAPath(value: string): ProblemDetails {
  return {
    message: `“${value}” is no path of an attribute.`,
    found: value,
    expected: 'names joined by “.”, such as account.id, or claims["a name"]',
  };
}

const about = (what: string) => field(text(), `What ${what} is for, in a sentence`);

const zone = field(
  text({ expected: "the name of a time zone" }),
  "IANA time zone for local times, such as Atlantic/Faroe",
);

const instant = text({ expected: "a date, or a date and time such as 2026-12-01T09:00" });

const date = text({
  expected: "a date such as 2026-12-25",
  isSound(value, walk) {
    if (isDateText(value)) return true;
    walk.report("time-invalid", {
      message: `“${value}” is no date.`,
      found: value,
      expected: "an existing day as YYYY-MM-DD",
    });
    return false;
  },
});

const writePercent = (value: unknown) =>
  typeof value === "number" && value >= 0 && value <= 100 ? `write ${showPercent(value)}` : undefined;

const plainShare = text({
  expected: "a percentage such as 10%, or a range such as 20% to 45%",
  schema: { pattern: shareSource },
  help: writePercent,
  isSound(value, walk) {
    if (parseRange(value) !== null) return true;
    walk.report("share-invalid", {
      message: `“${value}” is no share.`,
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
      message: `“${value}” is no step of a rising share.`,
      found: value,
      expected: "a percentage, “from” and an instant: 25% from 2026-12-04T09:00",
    });
    return false;
  },
});

const splitPart = text({
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

const share: Shape<ShareSource> = byKind<ShareSource>(
  { text: plainShare, object: risingShare },
  { expected: "a percentage such as 10%, a range such as 20% to 45%, or { rising: […] }", help: writePercent },
);

/** What takes a rule's share away in one environment. */
export const noShare = "none";

const adjustedShare: Shape<ShareSource> = {
  expected: `${share.expected}, or none`,
  schema: { anyOf: [{ const: noShare }, share.schema] },
  read: (value, walk) => (value === noShare ? noShare : share.read(value, walk)),
};

const salt = field(name("a salt"), "Text that the hash is mixed with; keep it when a flag is renamed");

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

const rule = object(
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
      help: "move it up: a file that is cut off in the middle must not widen a rule",
    }),
  );
}

const rules = field(listOf(rule, { what: "rules" }), "Asked in order; the first that matches decides");
const provided = (text: string) => field(condition, text);
const otherwise = field(anyValue(), "The value when no rule matches; the safe value if left out");

const adjustment = object(
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

const flagEnvironment = object(
  {
    provided: provided("Must hold as well as the flag's own"),
    rules,
    adjust: field(
      record(adjustment, { what: "adjusted rules", isKey: () => true, keySchema: { type: "string" } }),
      "Rule name → the share, give or split that stands here in place of that rule's own",
    ),
    otherwise,
  },
  {
    expected: "settings of a flag in an environment",
    isSound: hasOneWayOfRules,
    misplaced: { share: "write adjust: { the rule's name: { share: … } }", give: "write adjust, or otherwise" },
  },
);

function hasOneWayOfRules(value: { readonly rules?: unknown; readonly adjust?: unknown }, walk: Walk): boolean {
  if (value.rules === undefined || value.adjust === undefined) return true;
  walk.reportKey("not-exactly-one", {
    message: "“rules” replace the flag's own and “adjust” changes them; one of the two belongs here.",
    found: "rules and adjust",
    expected: "rules or adjust",
  });
  return false;
}

const instantWithOffset = text({
  expected: "an instant with Z or an offset",
  isSound(value, walk) {
    if (!Number.isNaN(parseTime(value))) return true;
    walk.report("time-invalid", {
      message: `“${value}” is no instant.`,
      found: value,
      expected: "a date and time with Z or an offset: 2026-11-30T12:00Z",
    });
    return false;
  },
});

const example = object(
  {
    as: required(anyContext(), "The context"),
    at: field(instantWithOffset, "The instant; required where the answer can depend on time"),
    in: field(name("an environment"), "The environment; every one if left out"),
    gives: required(anyValue(), "The value, or the name of the variant, that is expected"),
  },
  { expected: "an example" },
);

/** A JSON Schema in place, or the file that holds it. */
export type SchemaSource = boolean | Readonly<Record<string, unknown>>;

const inlineSchema: Shape<SchemaSource> = {
  expected: "a JSON Schema",
  schema: { type: ["object", "boolean"] },
  read: (value, walk) => (isObject(value) && isPlainValue(value, walk) ? value : undefined),
};

const schema = byKind<SchemaSource>(
  { object: inlineSchema, "yes-no": yesNo() },
  { expected: "a JSON Schema, or { file: schemas/check-in.schema.json }" },
);

const flag = object(
  {
    about: about("the flag"),
    owner: field(text(), "Who looks after it"),
    lifespan: field(oneOf(["passing", "lasting"]), "passing: to be removed one day; lasting: here to stay"),
    "review-by": field(date, "The last day (UTC) on which nobody needs to look"),
    links: field(listOf(text(), { what: "texts" }), "Where to read more"),
    safe: required(anyValue(), "The value that does no harm"),
    variants: field(
      record(anyValue(), { what: "variants", nonEmpty: true }),
      "Named values; used by name everywhere else",
    ),
    schema: field(schema, "For data: a JSON Schema (2020-12) that every value keeps, here or as { file: … }"),
    by: field(path, "The attribute whose hash decides shares and splits"),
    salt,
    provided: provided("Must be true before any rule is looked at; else the safe value"),
    rules,
    otherwise,
    environments: field(record(flagEnvironment, { what: "environments" }), "What differs by environment"),
    "for-instance": field(listOf(example, { what: "examples" }), "Examples that the check runs"),
  },
  {
    expected: "a flag",
    misplaced: {
      split: "a split belongs to a rule: rules: [{ split: […] }]",
      share: "a share belongs to a rule: rules: [{ share: 10%, give: true }]",
      when: "a condition belongs to a rule: rules: [{ when: …, give: true }]",
      give: "write otherwise, or a rule: rules: [{ give: true }]",
    },
  },
);

/** What is read of a flag as a plain property, without asking whether it is its own; see `readDefinitions`. */
export const keysOfFlags: readonly string[] = [flag, flagEnvironment, adjustment, rule, example].flatMap(({ fields }) =>
  Object.keys(fields),
);

const attributeType = byKind<AttributeTypeName | readonly string[]>(
  { text: oneOf(attributeTypes), list: listOf(text(), { what: "texts", nonEmpty: true }) },
  { expected: "text, number, yes-no, list, version, time or a list of texts" },
);

const attributeObject = object(
  {
    type: required(attributeType, "text, number, yes-no, list, version, time, or a list of texts"),
    "missing-as": field(anyValue(), "The value that stands in where the context has none"),
    "ignore-case": field(yesNo(), "Every test compares its texts in lower case"),
    private: field(yesNo(), "Shown as ••• in explanations and events"),
    about: about("the attribute"),
  },
  { expected: "an attribute" },
);

const attribute = byKind<AttributeTypeName | readonly string[] | TypeOf<typeof attributeObject>>(
  { text: oneOf(attributeTypes), list: listOf(text(), { what: "texts", nonEmpty: true }), object: attributeObject },
  { expected: "a type, a list of texts, or an object with “type”" },
);

/** An id is a text or a number; what numbers are exact is settled with the source at hand. */
const id: Shape<string | number> = {
  expected: "an id: a text or a whole number",
  schema: { type: ["string", "integer"] },
  read(value, walk) {
    if (typeof value === "number" || (typeof value === "string" && value !== "")) return value;
    walk.report("id-invalid", {
      message: value === "" ? "An id cannot be empty." : "This is no id.",
      found: value === "" ? '""' : String(value),
      expected: "a text or a whole number",
    });
    return undefined;
  },
};

const cohort = object(
  {
    about: about("the cohort"),
    when: field(condition, "Who belongs to it, as a condition"),
    of: field(path, "The attribute that holds the id"),
    ids: field(listOf(id, { what: "ids" }), "The ids"),
    file: field(
      text({ expected: "the path of a list file" }),
      "A .csv or .txt list, relative to the definition folder",
    ),
    column: field(text({ expected: "the name of a column" }), "The column of a .csv; its first if left out"),
    share: field(plainShare, "People by lot: 10%, or a range such as 20% to 45%"),
    by: field(path, "For a share: the attribute whose hash decides"),
    salt,
  },
  { expected: "a cohort", exactlyOne: ["when", "ids", "file", "share"], isSound: hasFittingKeys },
);

/** For each key that goes with others only, those others. */
const companions: readonly (readonly [key: string, others: readonly string[], words: string])[] = [
  ["of", ["ids", "file"], "it goes with “ids” or “file”"],
  ["by", ["share"], "it goes with “share”; a list is looked up by “of”"],
  ["salt", ["share"], "it goes with “share”"],
];

function hasFittingKeys(value: TypeOfCohort, walk: Walk): boolean {
  let fits = true;
  const misplaced = (key: string, help: string) => {
    walk.inside(key, () => walk.reportKey("unknown-key", { message: `“${key}” has no place here.`, found: key, help }));
    fits = false;
  };
  for (const [key, others, words] of companions) {
    if (Object.hasOwn(value, key) && !others.some((other) => Object.hasOwn(value, other))) misplaced(key, words);
  }
  if (value.column !== undefined && !value.file?.endsWith(".csv")) misplaced("column", "it goes with a .csv “file”");
  if ((value.ids === undefined && value.file === undefined) || value.of !== undefined) return fits;
  walk.reportKey("missing-key", {
    message: "“of” is missing here.",
    expected: "of: the attribute that holds the id, such as account.id",
  });
  return false;
}

type TypeOfCohort = { readonly column?: string; readonly file?: string; readonly ids?: unknown; readonly of?: string };

const window = object(
  {
    about: about("the window"),
    zone,
    from: field(instant, "Open at and after this instant"),
    until: field(instant, "Shut at and after this instant"),
    hours: field(
      text({ expected: "opening hours such as Mo-Fr 07:00-19:00", isSound: areHours }),
      "Opening hours: Mo-Fr 07:00-19:00; Sa 09:00-13:00",
    ),
    except: field(listOf(date, { what: "dates" }), "Local dates on which it does not open"),
  },
  { expected: "a window" },
);

function areHours(value: string, walk: Walk): boolean {
  const { fault } = parseHours(value);
  if (!fault) return true;
  const { start, end } = fault.span;
  walk.problems.report("hours-invalid", inText(walk.place(), fault.span), {
    message: fault.message,
    found: value.slice(start, end),
    expected: "opening hours such as Mo-Fr 07:00-19:00; Sa 09:00-13:00",
    help: fault.help,
  });
  return false;
}

const environment = object(
  {
    "local-overrides": field(yesNo(), "Whether overrides.local.yaml counts here"),
    protected: field(yesNo(), "No overrides.local.yaml may ever count here"),
    passes: field(
      listOf(name("a flag"), { what: "flags" }),
      "The flags that a pass may touch here; every one if left out",
    ),
    about: about("the environment"),
  },
  { expected: "an environment", isSound: isTrulyProtected },
);

function isTrulyProtected(value: { readonly [key: string]: unknown }, walk: Walk): boolean {
  if (value["protected"] !== true || value["local-overrides"] !== true) return true;
  walk.inside("local-overrides", () =>
    walk.report("protected-environment", {
      message: "A protected environment has no local overrides.",
      found: "local-overrides: true beside protected: true",
      expected: "one of the two",
      help: "take local-overrides out, or protected if this is a place to try things",
    }),
  );
  return false;
}

const defaults = object(
  { by: field(path, "What shares and splits hash, unless a flag or rule says otherwise"), zone },
  { expected: "defaults" },
);

const formatVersion: Shape<number> = {
  expected: `${limits.formatVersion}`,
  schema: { const: limits.formatVersion },
  // Looked at before everything else, with messages of its own.
  read: () => limits.formatVersion,
};

export const definitionFile = object(
  {
    iudex: required(formatVersion, "The version of the format"),
    defaults: field(defaults, "Defaults of this file"),
    environments: field(record(environment, { what: "environments" }), "The environments of the set"),
    attributes: field(
      record(attribute, { what: "attributes", isKey: isPathKey, keySchema: { type: "string" } }),
      "The attributes that a context may have",
    ),
    cohorts: field(record(cohort, { what: "cohorts" }), "Named groups"),
    windows: field(record(window, { what: "windows" }), "Named times"),
    flags: field(record(flag, { what: "flags" }), "The flags"),
  },
  { expected: "an object that begins with iudex: 1" },
);

function isPathKey(key: string, walk: Walk): boolean {
  if (!parsePath(key).fault) return true;
  walk.reportKey("path-invalid", notAPath(key));
  return false;
}

export type FlagSource = TypeOf<typeof flag>;
export type FlagEnvironmentSource = TypeOf<typeof flagEnvironment>;
export type AdjustmentSource = TypeOf<typeof adjustment>;
export type RuleSource = TypeOf<typeof rule>;
export type ExampleSource = TypeOf<typeof example>;
export type CohortSource = TypeOf<typeof cohort>;
export type WindowSource = TypeOf<typeof window>;
export type AttributeSource = TypeOf<typeof attribute>;
export type EnvironmentSource = TypeOf<typeof environment>;
export type DefaultsSource = TypeOf<typeof defaults>;
export type DefinitionFile = TypeOf<typeof definitionFile>;
