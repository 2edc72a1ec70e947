import { isObject, parseTime } from "../../values/index.ts";
import { field, object, required } from "../object-shape.ts";
import { isPlainValue } from "../plain.ts";
import { record } from "../record-shape.ts";
import { anyContext, anyValue, byKind, listOf, name, oneOf, type Shape, type TypeOf, text, yesNo } from "../shape.ts";
import type { Walk } from "../walk.ts";
import { adjustment, otherwise, provided, rule, rules } from "./rules.ts";
import { salt } from "./shares.ts";
import { about, date, path } from "./texts.ts";

// Flags, with what environments say of them and their examples.

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
    message: "“rules” replace the flag's own, “adjust” changes them: write one of them.",
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
      message: `“${value}” is not an instant.`,
      found: value,
      expected: "a date and time with Z or an offset: 2026-11-30T12:00Z",
    });
    return false;
  },
});

export const example = object(
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

export const schema = byKind<SchemaSource>(
  { object: inlineSchema, "yes-no": yesNo() },
  { expected: "a JSON Schema, or { file: schemas/check-in.schema.json }" },
);

export const flag = object(
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

export type FlagSource = TypeOf<typeof flag>;
export type FlagEnvironmentSource = TypeOf<typeof flagEnvironment>;
export type ExampleSource = TypeOf<typeof example>;
