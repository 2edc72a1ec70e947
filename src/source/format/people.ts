import { type AttributeTypeName, attributeTypes } from "../../language/index.ts";
import { field, object, required } from "../object-shape.ts";
import { anyValue, byKind, listOf, oneOf, type Shape, type TypeOf, text, yesNo } from "../shape.ts";
import type { Walk } from "../walk.ts";
import { plainShare, salt } from "./shares.ts";
import { about, condition, path } from "./texts.ts";

// Attributes and cohorts.

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

export const attribute = byKind<AttributeTypeName | readonly string[] | TypeOf<typeof attributeObject>>(
  { text: oneOf(attributeTypes), list: listOf(text(), { what: "texts", nonEmpty: true }), object: attributeObject },
  { expected: "a type, a list of texts, or an object with “type”" },
);

/** An id is a text or a number; what numbers are exact is settled with the source at hand. */
export const id: Shape<string | number> = {
  expected: "an id: a text or a whole number",
  schema: { type: ["string", "integer"] },
  read(value, walk) {
    if (typeof value === "number" || (typeof value === "string" && value !== "")) return value;
    walk.report("id-invalid", {
      message: value === "" ? "An id cannot be empty." : "This is not an id.",
      found: value === "" ? '""' : String(value),
      expected: "a text or a whole number",
    });
    return undefined;
  },
};

export const cohort = object(
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
    hashed: field(
      text({ expected: "the salt of the digests" }),
      "The salt, where ids stand as digests: SHA-256 of salt:id in hex",
    ),
    share: field(plainShare, "People by lot: 10%, or a range such as 20% to 45%"),
    by: field(path, "For a share: the attribute whose hash decides"),
    salt,
  },
  { expected: "a cohort", exactlyOne: ["when", "ids", "file", "share"], isSound: hasFittingKeys },
);

/** For each key that goes with others only, those others. */
const companions: readonly (readonly [key: string, others: readonly string[], words: string])[] = [
  ["of", ["ids", "file"], "it goes with “ids” or “file”"],
  ["hashed", ["ids", "file"], "it goes with “ids” or “file”"],
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

export type CohortSource = TypeOf<typeof cohort>;
export type AttributeSource = TypeOf<typeof attribute>;
