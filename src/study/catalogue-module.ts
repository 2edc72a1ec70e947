import { type AttributeDefinition, type Definitions, type FlagDefinition, Graph, givenBy } from "../model/index.ts";
import { printable } from "../values/index.ts";

/**
 * A TypeScript module with the catalogue of a definition set and the type of its context. The fallback of each flag is
 * its safe value; data flags get a check of their shape, which a schema library can take the place of.
 */
export function catalogueModule(definitions: Definitions): string {
  const flags = [...definitions.flags.values()].sort((a, b) => (a.name < b.name ? -1 : 1));
  const kinds = [...new Set(flags.map((flag) => makerOf(flag)))].sort();
  const hasData = kinds.includes("data");
  return [
    "// Written by “iudex catalogue” from the definitions.",
    `import { ${["defineCatalogue", ...kinds, ...(hasData ? ["type StandardSchemaV1"] : [])].sort(byWord).join(", ")} } from "iudex";`,
    "",
    ...contextType(definitions),
    ...(hasData ? shapeCheck : []),
    "export const catalogue = defineCatalogue({",
    ...flags.flatMap(entryLines),
    "});",
    "",
  ].join("\n");
}

function byWord(a: string, b: string): number {
  const word = (text: string) => text.replace(/^type /, "").toLowerCase();
  return word(a) < word(b) ? -1 : 1;
}

function makerOf({ type }: FlagDefinition): "yesNo" | "number" | "text" | "data" {
  return type === "yes-no" ? "yesNo" : type;
}

function entryLines(flag: FlagDefinition): string[] {
  const { name, source, variants } = flag;
  const fallback = literal(variants ? variants.get(String(source.safe)) : source.safe);
  const about = source.about === undefined ? [] : [`  /** ${comment(source.about)} */`];
  return [...about, `  ${key(name)}: ${entry(flag, fallback)},`];
}

function entry(flag: FlagDefinition, fallback: string): string {
  const values = [...new Set(valuesOf(flag))];
  switch (flag.type) {
    case "yes-no":
      return `yesNo({ fallback: ${fallback} })`;
    case "number":
      return `number({ fallback: ${fallback} })`;
    case "text":
      return `text([${values.map(literal).join(", ")}], { fallback: ${fallback} })`;
    case "data":
      return `data(shapedLike(${fallback}), { fallback: ${fallback} })`;
  }
}

function valuesOf(flag: FlagDefinition): readonly unknown[] {
  return flag.variants ? [...flag.variants.values()] : givenBy(flag);
}

/** A check without a library: the same kinds in the same places as the safe value. */
const shapeCheck = [
  "/** Takes what has the same kinds in the same places as the example; put a schema of your own in its place. */",
  "function shapedLike<Value>(example: Value): StandardSchemaV1<unknown, Value> {",
  "  const isLike = (value: unknown, like: unknown): boolean => {",
  "    if (Array.isArray(like)) return Array.isArray(value) && value.every((item) => like.length === 0 || isLike(item, like[0]));",
  '    if (typeof like !== "object" || like === null) return typeof value === typeof like;',
  '    if (typeof value !== "object" || value === null) return false;',
  "    return Object.entries(like).every(([key, part]) => isLike((value as Record<string, unknown>)[key], part));",
  "  };",
  "  return {",
  '    "~standard": {',
  "      version: 1,",
  '      vendor: "iudex-catalogue",',
  "      validate: (value) =>",
  '        isLike(value, example) ? { value: value as Value } : { issues: [{ message: "it has another shape" }] },',
  "    },",
  "  };",
  "}",
  "",
];

interface Branch {
  readonly inner: Map<string, Branch>;
  type?: string;
  about?: string | undefined;
}

function contextType(definitions: Definitions): string[] {
  const root: Branch = { inner: new Map() };
  if (definitions.attributes.size > 0) {
    for (const attribute of definitions.attributes.values())
      put(root, attribute.path, typeOf(attribute), attribute.about);
  } else {
    const graph = new Graph(definitions);
    const paths = new Map([...definitions.flags.keys()].flatMap((name) => [...graph.attributesBehind(name)]));
    for (const name of [...paths.keys()].sort()) put(root, paths.get(name)!, "unknown", undefined);
  }
  const about = "/** What calling code may know at the moment of asking; everything may be missing. */";
  if (root.inner.size === 0) return [about, "export type FlagContext = object;", ""];
  return [about, "export interface FlagContext {", ...members(root, "  "), "}", ""];
}

function put(root: Branch, path: readonly string[], type: string, about: string | undefined): void {
  let here = root;
  for (const segment of path) {
    const next = here.inner.get(segment) ?? { inner: new Map() };
    here.inner.set(segment, next);
    here = next;
  }
  here.type = type;
  here.about = about;
}

function typeOf({ type }: AttributeDefinition): string {
  if (Array.isArray(type)) return type.map((text) => literal(text)).join(" | ");
  switch (type) {
    case "number":
      return "number";
    case "yes-no":
      return "boolean";
    case "list":
      return "readonly string[]";
    case "time":
      return "Date | string | number";
    default:
      return "string";
  }
}

function members({ inner }: Branch, indent: string): string[] {
  return [...inner].flatMap(([name, branch]) => {
    const about = branch.about === undefined ? [] : [`${indent}/** ${comment(branch.about)} */`];
    if (branch.inner.size === 0) return [...about, `${indent}readonly ${key(name)}?: ${branch.type} | undefined;`];
    // An attribute that is both a value and an object of others can be either.
    const either = branch.type === undefined ? "" : `${branch.type} | `;
    return [
      ...about,
      `${indent}readonly ${key(name)}?: ${either}{`,
      ...members(branch, `${indent}  `),
      `${indent}} | undefined;`,
    ];
  });
}

function key(name: string): string {
  return /^[A-Za-z_][A-Za-z0-9_]*$/.test(name) && name !== "__proto__" ? name : quoted(name);
}

function literal(value: unknown): string {
  if (Array.isArray(value)) return `[${value.map(literal).join(", ")}]`;
  if (typeof value !== "object" || value === null) return quoted(value);
  return `{ ${Object.entries(value)
    .map(([name, member]) => `${key(name)}: ${literal(member)}`)
    .join(", ")} }`;
}

function comment(text: string): string {
  return printable(text).replace(unseen, "\ufffd").replaceAll("*/", "* /");
}

/** What an editor or a terminal takes for a line's end, a command, another direction of writing, or nothing at all. */
const unseen = /[\u007f-\u009f\u061c\u200b-\u200f\u2028-\u202e\u2060-\u2069\ufeff]/g;

/** As JSON, with such signs in digits. */
function quoted(value: unknown): string {
  return JSON.stringify(value).replace(unseen, (sign) => `\\u${sign.charCodeAt(0).toString(16).padStart(4, "0")}`);
}
