import { readdir, readFile } from "node:fs/promises";
import { join } from "node:path";
import type { ParserOptions } from "@babel/parser";
import { reasonOf, ToolError } from "../files/index.ts";
import { optionalPackage } from "./optional-package.ts";

/** A place in the code. */
export interface CodePlace {
  /** Relative to the folder that was looked through. */
  readonly file: string;
  readonly line: number;
  readonly column: number;
}

/** The names of flags in code. */
export interface CodeNames {
  /** Where a text in the code is the name of one of the flags asked for. */
  readonly named: ReadonlyMap<string, readonly CodePlace[]>;
  /** Names that the code asks for and that are not among the flags: keys of a catalogue, arguments of questions. */
  readonly unknown: ReadonlyMap<string, readonly CodePlace[]>;
  /** Files that could not be parsed. */
  readonly unreadable: readonly { readonly file: string; readonly message: string }[];
  readonly files: number;
}

const sources = /\.(?:[cm]?[jt]s|[jt]sx)$/;
const passedOver = new Set(["node_modules", "dist", "build", "coverage"]);

/**
 * Finds the flags that TypeScript and JavaScript name, by syntax: texts and keys, not comments and not parts of words.
 * A name that nobody defines is told only where the code surely asks for a flag.
 */
export async function findCodeNames(folder: string, flags: ReadonlySet<string>): Promise<CodeNames> {
  const { parse } = await optionalPackage("@babel/parser", "To read code", () => import("@babel/parser"));
  const named = new Map<string, CodePlace[]>();
  const unknown = new Map<string, CodePlace[]>();
  const unreadable: { file: string; message: string }[] = [];
  let files = 0;
  for await (const file of sourceFiles(folder, "")) {
    files++;
    try {
      const program = parse(await readFile(join(folder, file), "utf8"), optionsFor(file));
      const note = (names: Map<string, CodePlace[]>, name: string, { start }: Located) => {
        const place = { file, line: start.line, column: start.column + 1 };
        names.set(name, [...(names.get(name) ?? []), place]);
      };
      visit(program.program as unknown as SyntaxNode, {
        text: (name, location) => flags.has(name) && note(named, name, location),
        asked: (name, location) => !flags.has(name) && note(unknown, name, location),
      });
    } catch (error) {
      unreadable.push({ file, message: reasonOf(error) });
    }
  }
  return { named, unknown, unreadable, files };
}

async function* sourceFiles(folder: string, shown: string): AsyncGenerator<string> {
  let entries: Awaited<ReturnType<typeof readEntries>>;
  try {
    entries = await readEntries(join(folder, shown));
  } catch (error) {
    throw new ToolError(
      `“${join(folder, shown)}” cannot be looked through: ${reasonOf(error)}.`,
      "name a folder of code",
    );
  }
  for (const entry of entries) {
    const path = shown === "" ? entry.name : `${shown}/${entry.name}`;
    if (entry.name.startsWith(".") || passedOver.has(entry.name)) continue;
    if (entry.isDirectory()) yield* sourceFiles(folder, path);
    else if (entry.isFile() && sources.test(entry.name) && !entry.name.endsWith(".d.ts")) yield path;
  }
}

async function readEntries(directory: string) {
  const entries = await readdir(directory, { withFileTypes: true });
  return entries.sort((a, b) => (a.name < b.name ? -1 : 1));
}

function optionsFor(file: string): ParserOptions {
  const isTypeScript = /\.[cm]?tsx?$/.test(file);
  const hasJsx = /x$/.test(file) || /\.[cm]?js$/.test(file);
  return {
    sourceType: "unambiguous",
    allowReturnOutsideFunction: true,
    errorRecovery: true,
    plugins: [...(isTypeScript ? (["typescript"] as const) : []), ...(hasJsx ? (["jsx"] as const) : []), "decorators"],
  };
}

interface Located {
  readonly start: { readonly line: number; readonly column: number };
}

/** What every node of the tree has (ESTree, as the parser extends it). */
interface SyntaxNode {
  readonly type: string;
  readonly loc?: Located;
  readonly [member: string]: unknown;
}

interface Visitor {
  text(name: string, location: Located): void;
  asked(name: string, location: Located): void;
}

function visit(node: SyntaxNode, visitor: Visitor): void {
  const text = textOf(node);
  if (text !== undefined) visitor.text(text, node.loc!);
  if (node.type === "ObjectProperty" || node.type === "ObjectMethod") {
    // Keys in quotes are texts, and come by as such.
    const key = keyOf(node);
    if (key && (node["key"] as SyntaxNode).type === "Identifier") visitor.text(key.name, key.location);
  }
  if (node.type === "CallExpression" || node.type === "OptionalCallExpression")
    for (const { name, location } of askedBy(node)) visitor.asked(name, location);
  for (const member of Object.values(node)) {
    if (Array.isArray(member)) for (const each of member) if (isNode(each)) visit(each, visitor);
    if (isNode(member)) visit(member, visitor);
  }
}

function isNode(value: unknown): value is SyntaxNode {
  return typeof value === "object" && value !== null && typeof (value as SyntaxNode).type === "string";
}

function textOf(node: SyntaxNode): string | undefined {
  if (node.type === "StringLiteral") return String(node["value"]);
  const quasis = node.type === "TemplateLiteral" ? (node["quasis"] as SyntaxNode[]) : [];
  return quasis.length === 1 ? (quasis[0]!["value"] as { cooked?: string }).cooked : undefined;
}

interface NamedAt {
  readonly name: string;
  readonly location: Located;
}

function keyOf(property: SyntaxNode): NamedAt | undefined {
  const key = property["key"] as SyntaxNode;
  if (property["computed"] === true) return undefined;
  const name = key.type === "Identifier" ? String(key["name"]) : textOf(key);
  return name === undefined ? undefined : { name, location: key.loc! };
}

/** Methods whose first argument is a flag, on something that is called like flags. */
const asking = new Set(["value", "verdict", "explain", "possible"]);
const overriding = new Set(["override", "withOverrides", "overrideUntilEnd", "overriding"]);
const holders = /(?:flags|pinned)$/i;

function askedBy(call: SyntaxNode): NamedAt[] {
  const callee = call["callee"] as SyntaxNode;
  const [first] = call["arguments"] as SyntaxNode[];
  if (!first) return [];
  if (callee.type === "Identifier" && callee["name"] === "defineCatalogue") return keysOf(first);
  if (callee.type !== "MemberExpression" && callee.type !== "OptionalMemberExpression") return [];
  const method = String((callee["property"] as SyntaxNode)["name"]);
  if (!holders.test(nameOf(callee["object"] as SyntaxNode))) return [];
  if (overriding.has(method)) return keysOf(first);
  const name = asking.has(method) ? textOf(first) : undefined;
  return name === undefined ? [] : [{ name, location: first.loc! }];
}

function keysOf(node: SyntaxNode): NamedAt[] {
  if (node.type !== "ObjectExpression") return [];
  return (node["properties"] as SyntaxNode[]).flatMap((property) =>
    property.type === "ObjectProperty" ? (keyOf(property) ?? []) : [],
  );
}

/** The last word of `this.#flags`, `request.flags` or `flags.pin(…)`. */
function nameOf(node: SyntaxNode): string {
  if (node.type === "Identifier" || node.type === "PrivateName")
    return String(node["name"] ?? nameOf(node["id"] as SyntaxNode));
  if (node.type === "MemberExpression" || node.type === "OptionalMemberExpression")
    return nameOf(node["property"] as SyntaxNode);
  if (node.type === "CallExpression") {
    const callee = node["callee"] as SyntaxNode;
    const isMethod = callee.type === "MemberExpression";
    return isMethod ? nameOf(callee["object"] as SyntaxNode) : nameOf(callee);
  }
  return "";
}
