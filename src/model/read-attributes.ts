import { parsePath } from "../language/parser.ts";
import { printPath } from "../language/print.ts";
import { at, type Place, type Problems } from "../problems/problem.ts";
import type { Entry } from "../source/entries.ts";
import { attributeTypes } from "../source/format.ts";
import { isObject, own, show } from "../values/data.ts";
import { isOfType } from "./attribute-type.ts";
import type { AttributeDefinition, AttributeType } from "./types.ts";

export function readAttributes(entries: readonly Entry[], problems: Problems): Map<string, AttributeDefinition> {
  const attributes = new Map<string, AttributeDefinition>();
  for (const entry of entries) {
    const attribute = readAttribute(entry, problems);
    if (!attribute) continue;
    const earlier = attributes.get(attribute.name);
    if (earlier) {
      problems.report(
        "defined-twice",
        { ...entry.place, part: "key" },
        {
          message: `The attribute “${attribute.name}” is defined twice, in two spellings of one path.`,
          found: entry.name,
          expected: "one definition of each attribute in the whole folder",
          related: [{ place: { ...earlier.place, part: "key" }, message: "the first definition" }],
        },
      );
    } else {
      attributes.set(attribute.name, attribute);
    }
  }
  return attributes;
}

function readAttribute({ name, source, place }: Entry, problems: Problems): AttributeDefinition | undefined {
  const { path } = parsePath(name);
  const parts = isObject(source) ? source : { type: source };
  const type = typeOf(own(parts, "type"));
  if (!path || !type) return undefined;
  const missingAs = own(parts, "missing-as");
  if (missingAs !== undefined) checkMissingAs(missingAs, type, at(place, "missing-as"), problems);
  const about = own(parts, "about");
  return {
    name: printPath(path),
    path,
    place,
    type,
    missingAs,
    private: own(parts, "private") === true,
    about: typeof about === "string" ? about : undefined,
  };
}

function typeOf(type: unknown): AttributeType | undefined {
  if (Array.isArray(type)) return type.every((text) => typeof text === "string") ? type : undefined;
  return attributeTypes.find((known) => known === type);
}

function checkMissingAs(value: unknown, type: AttributeType, place: Place, problems: Problems): void {
  if (value === null || isOfType(value, type)) return;
  const expected = typeof type === "string" ? `a value of type ${type}` : `one of ${type.join(", ")}`;
  problems.report("value-type", place, {
    message: `“missing-as” is not of the attribute's type.`,
    found: show(value),
    expected,
  });
}
