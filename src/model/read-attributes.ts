import { type AttributeType, parsePath, printPath } from "../language/index.ts";
import { at, type Place, type Problems } from "../problems/index.ts";
import type { AttributeSource, Entry } from "../source/index.ts";
import { show } from "../values/index.ts";
import { isOfType } from "./attribute-type.ts";
import type { AttributeDefinition } from "./types.ts";

export function readAttributes(
  entries: readonly Entry<AttributeSource>[],
  problems: Problems,
): Map<string, AttributeDefinition> {
  const attributes = new Map<string, AttributeDefinition>();
  for (const entry of entries) {
    const attribute = readAttribute(entry, problems);
    if (!attribute) continue;
    const earlier = attributes.get(attribute.name);
    if (earlier) reportTwoSpellings(attribute.name, entry, earlier.place, problems);
    else attributes.set(attribute.name, attribute);
  }
  return attributes;
}

function reportTwoSpellings(name: string, { name: found, place }: Entry<unknown>, earlier: Place, problems: Problems) {
  problems.report(
    "defined-twice",
    { ...place, part: "key" },
    {
      message: `The attribute “${name}” is defined twice, in two spellings of one path.`,
      found,
      expected: "one definition of each attribute in the whole folder",
      related: [{ place: { ...earlier, part: "key" }, message: "the first definition" }],
    },
  );
}

type Parts = Extract<AttributeSource, { readonly type: unknown }>;

function partsOf(source: AttributeSource): Parts {
  return typeof source === "string" || isTexts(source) ? { type: source } : source;
}

function isTexts(source: AttributeSource): source is readonly string[] {
  return Array.isArray(source);
}

function readAttribute(
  { name, source, place }: Entry<AttributeSource>,
  problems: Problems,
): AttributeDefinition | undefined {
  const { path } = parsePath(name);
  if (!path) return undefined;
  const { type, about, private: isPrivate = false, ...rest } = partsOf(source);
  const missingAs = rest["missing-as"];
  const ignoreCase = rest["ignore-case"] ?? false;
  if (missingAs !== undefined) checkMissingAs(missingAs, type, at(place, "missing-as"), problems);
  if (ignoreCase && !hasTexts(type)) reportNoTexts(type, at(place, "ignore-case"), problems);
  return { name: printPath(path), path, place, type, missingAs, ignoreCase, private: isPrivate, about };
}

function hasTexts(type: AttributeType): boolean {
  return type === "text" || type === "list" || Array.isArray(type);
}

function reportNoTexts(type: AttributeType, place: Place, problems: Problems): void {
  problems.report("value-type", place, {
    message: `“ignore-case” is for texts, and this attribute is declared as ${String(type)}.`,
    found: "ignore-case: true",
    expected: "an attribute of type text or list, or one of listed texts",
    help: "take it out",
  });
}

function checkMissingAs(value: unknown, type: AttributeType, place: Place, problems: Problems): void {
  if (isOfType(value, type)) return;
  const expected = typeof type === "string" ? `a value of type ${type}` : `one of ${type.join(", ")}`;
  problems.report("value-type", place, {
    message: "“missing-as” is not of the attribute's type.",
    found: show(value),
    expected,
  });
}
