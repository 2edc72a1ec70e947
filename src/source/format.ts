import { parseSplitPart } from "../buckets/split.ts";
import { parseHours } from "../calendar/hours.ts";
import { isDateText } from "../calendar/instant.ts";
import { parsePath } from "../language/parser.ts";
import { inText } from "../problems/problem.ts";
import { limits } from "../values/limits.ts";
import { parsePercent, percentSource, showPercent } from "../values/percent.ts";
import { parseTime } from "../values/time.ts";
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
import type { Walk } from "./walk.ts";

/** The tables of the format: every key of a definition file, said once. */

export const attributeTypes = ["text", "number", "yes-no", "list", "version", "time"] as const;
export type AttributeTypeName = (typeof attributeTypes)[number];

const condition = text({
  expected: "a condition",
  refine(value, walk) {
    if (value.trim() !== "") return;
    walk.report("condition-empty", {
      message: "This condition is empty.",
      help: "leave the key out if everyone is meant",
    });
  },
});

const path = text({
  expected: "the path of an attribute, such as account.id",
  refine(value, walk) {
    const { fault } = parsePath(value);
    if (!fault) return;
    walk.problems.report("path-invalid", inText(walk.place(), fault.span), {
      message: `“${value}” is no path of an attribute.`,
      found: value,
      expected: 'names joined by “.”, such as account.id, or claims["a name"]',
    });
  },
});

const about = (what: string) => field(text(), `What ${what} is for, in a sentence`);

const zone = field(
  text({ expected: "the name of a time zone" }),
  "IANA time zone for local times, such as Atlantic/Faroe",
);

const instant = text({ expected: "a date, or a date and time such as 2026-12-01T09:00" });

const date = text({
  expected: "a date such as 2026-12-25",
  refine(value, walk) {
    if (isDateText(value)) return;
    walk.report("time-invalid", {
      message: `“${value}” is no date.`,
      found: value,
      expected: "an existing day as YYYY-MM-DD",
    });
  },
});

const percent = text({
  expected: "a percentage such as 10%",
  schema: { pattern: percentSource },
  help: (value) =>
    typeof value === "number" && value >= 0 && value <= 100 ? `write ${showPercent(value)}` : undefined,
  refine(value, walk) {
    if (parsePercent(value) !== undefined) return;
    const number = Number(value);
    walk.report("share-invalid", {
      message: `“${value}” is no share.`,
      found: value,
      expected: "a percentage from 0% to 100%, the sign included",
      help: value.trim() !== "" && number >= 0 && number <= 100 ? `write ${showPercent(number)}` : undefined,
    });
  },
});

/** A step of a rising share: "25% from 2026-12-04T09:00". */
export function parseRisingStep(value: string): { percent: number; instant: string; offset: number } | undefined {
  const match = /^(\S+) +from +(\S+)$/.exec(value);
  const parsed = match ? parsePercent(match[1]!) : undefined;
  if (!match || parsed === undefined) return undefined;
  return { percent: parsed, instant: match[2]!, offset: value.length - match[2]!.length };
}

const risingStep = text({
  expected: "a step such as 25% from 2026-12-04T09:00",
  refine(value, walk) {
    if (parseRisingStep(value)) return;
    walk.report("share-invalid", {
      message: `“${value}” is no step of a rising share.`,
      found: value,
      expected: "a percentage, “from” and an instant: 25% from 2026-12-04T09:00",
    });
  },
});

const splitPart = text({
  expected: "parts and a variant, such as 2 classic",
  refine(value, walk) {
    if (parseSplitPart(value)) return;
    walk.report("split-invalid", {
      message: `“${value}” is no part of a split.`,
      found: value,
      expected: "a number of parts (0 or more), a blank and a variant: 2 classic",
    });
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

const share: Shape<string | RisingSource> = byKind<string | RisingSource>(
  { text: percent, object: risingShare },
  {
    expected: "a percentage such as 10%, or { rising: […] }",
    help: (value) =>
      typeof value === "number" && value >= 0 && value <= 100 ? `write ${showPercent(value)}` : undefined,
  },
);

const salt = field(name("a salt"), "Text that the hash is mixed with; keep it when a flag is renamed");

const rule = object(
  {
    name: field(text(), "What people call the rule"),
    note: field(text(), "A remark for people"),
    when: field(condition, "The condition; everyone if left out. Stands before share, give and split"),
    share: field(share, "The share of subjects: 10%, or rising by date"),
    give: field(anyValue(), "The value, or the name of a variant"),
    split: field(listOf(splitPart, { what: "parts", nonEmpty: true }), "Variants by parts: [2 classic, 1 deck]"),
    by: field(path, "The attribute whose hash decides shares and splits"),
    salt,
  },
  { expected: "a rule", exactlyOne: ["give", "split"], refine: warnOfLateCondition },
);

const afterCondition: ReadonlySet<string> = new Set(["share", "give", "split"]);

/** A half-written file must not widen a rule: what is cut off is never the condition. */
function warnOfLateCondition(value: Readonly<Record<string, unknown>>, walk: Walk): void {
  for (const key in value) {
    if (key === "when") return;
    if (afterCondition.has(key)) return reportLateCondition(value, key, walk);
  }
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

const flagEnvironment = object(
  { provided: provided("Must hold as well as the flag's own"), rules, otherwise },
  { expected: "settings of a flag in an environment" },
);

const instantWithOffset = text({
  expected: "an instant with Z or an offset",
  refine(value, walk) {
    const epoch = parseTime(value);
    if (!Number.isNaN(epoch)) return;
    walk.report("time-invalid", {
      message: `“${value}” is no instant.`,
      found: value,
      expected: "a date and time with Z or an offset: 2026-11-30T12:00Z",
    });
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
    by: field(path, "The attribute whose hash decides shares and splits"),
    salt,
    provided: provided("Must be true before any rule is looked at; else the safe value"),
    rules,
    otherwise,
    environments: field(record(flagEnvironment, { what: "environments" }), "What differs by environment"),
    "for-instance": field(listOf(example, { what: "examples" }), "Examples that the check runs"),
  },
  { expected: "a flag" },
);

/** What is read of a flag as a plain property, without asking whether it is its own; see `readDefinitions`. */
export const keysOfFlags: readonly string[] = [flag, flagEnvironment, rule, example].flatMap(({ fields }) =>
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
  check(value, walk) {
    if (typeof value === "number" || (typeof value === "string" && value !== "")) return;
    walk.report("id-invalid", {
      message: value === "" ? "An id cannot be empty." : "This is no id.",
      found: value === "" ? '""' : String(value),
      expected: "a text or a whole number",
    });
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
  },
  { expected: "a cohort", exactlyOne: ["when", "ids", "file"], refine: checkCohortKeys },
);

function checkCohortKeys(value: Readonly<Record<string, unknown>>, walk: Walk): void {
  const has = (key: string) => Object.hasOwn(value, key);
  if ((has("ids") || has("file")) && !has("of")) {
    walk.reportKey("missing-key", {
      message: "“of” is missing here.",
      expected: "of: the attribute that holds the id, such as account.id",
    });
  }
  if (has("of") && has("when")) misplaced("of", "it goes with “ids” or “file”", walk);
  const csv = typeof value["file"] === "string" && value["file"].endsWith(".csv");
  if (has("column") && !csv) misplaced("column", "it goes with a .csv “file”", walk);
}

function misplaced(key: string, help: string, walk: Walk): void {
  walk.inside(key, () => walk.reportKey("unknown-key", { message: `“${key}” has no place here.`, found: key, help }));
}

const window = object(
  {
    about: about("the window"),
    zone,
    from: field(instant, "Open at and after this instant"),
    until: field(instant, "Shut at and after this instant"),
    hours: field(
      text({ expected: "opening hours such as Mo-Fr 07:00-19:00", refine: checkHours }),
      "Opening hours: Mo-Fr 07:00-19:00; Sa 09:00-13:00",
    ),
    except: field(listOf(date, { what: "dates" }), "Local dates on which it does not open"),
  },
  { expected: "a window" },
);

function checkHours(value: string, walk: Walk): void {
  const { fault } = parseHours(value);
  if (!fault) return;
  walk.problems.report("hours-invalid", inText(walk.place(), { start: fault.start, end: fault.end }), {
    message: fault.message,
    found: value.slice(fault.start, fault.end),
    expected: "opening hours such as Mo-Fr 07:00-19:00; Sa 09:00-13:00",
  });
}

const environment = object(
  {
    "local-overrides": field(yesNo(), "Whether overrides.local.yaml counts here"),
    about: about("the environment"),
  },
  { expected: "an environment" },
);

const defaults = object(
  { by: field(path, "What shares and splits hash, unless a flag or rule says otherwise"), zone },
  { expected: "defaults" },
);

const formatVersion: Shape<number> = {
  expected: `${limits.formatVersion}`,
  schema: { const: limits.formatVersion },
  check() {
    // Looked at before everything else, with messages of its own.
  },
};

export const definitionFile = object(
  {
    iudex: required(formatVersion, "The version of the format"),
    defaults: field(defaults, "Defaults of this file"),
    environments: field(record(environment, { what: "environments" }), "The environments of the set"),
    attributes: field(
      record(attribute, { what: "attributes", checkKey: checkPathKey, keySchema: { type: "string" } }),
      "The attributes that a context may have",
    ),
    cohorts: field(record(cohort, { what: "cohorts" }), "Named groups"),
    windows: field(record(window, { what: "windows" }), "Named times"),
    flags: field(record(flag, { what: "flags" }), "The flags"),
  },
  { expected: "an object that begins with iudex: 1" },
);

function checkPathKey(key: string, walk: Walk): void {
  if (!parsePath(key).fault) return;
  walk.reportKey("path-invalid", {
    message: `“${key}” is no path of an attribute.`,
    found: key,
    expected: 'names joined by “.”, such as account.id, or claims["a name"]',
  });
}

export type FlagSource = TypeOf<typeof flag>;
export type FlagEnvironmentSource = TypeOf<typeof flagEnvironment>;
export type RuleSource = TypeOf<typeof rule>;
export type ExampleSource = TypeOf<typeof example>;
export type CohortSource = TypeOf<typeof cohort>;
export type WindowSource = TypeOf<typeof window>;
export type AttributeSource = TypeOf<typeof attribute>;
export type EnvironmentSource = TypeOf<typeof environment>;
export type DefaultsSource = TypeOf<typeof defaults>;
export type DefinitionFile = TypeOf<typeof definitionFile>;
