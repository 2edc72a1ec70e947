import { readFile, stat } from "node:fs/promises";
import { reasonOf } from "../files/index.ts";
import { parsePath, printPath } from "../language/index.ts";
import { type Definitions, putAt, readDeclared } from "../model/index.ts";
import { isObject } from "../values/index.ts";
import { UsageError } from "./output.ts";

export interface GivenContext {
  readonly context: Record<string, unknown>;
  /** Values that could not be read by their attribute's declared type, and so count as missing. */
  readonly unreadable: readonly string[];
}

/** The context of `--as`: pairs such as account.id=A-17, or one JSON or YAML file. */
export async function givenContext(words: readonly string[], definitions: Definitions): Promise<GivenContext> {
  const [first] = words;
  if (words.length === 1 && first !== undefined && (await isFile(first))) return fromFile(first);
  const context: Record<string, unknown> = {};
  const unreadable: string[] = [];
  for (const word of words) {
    const equals = pairAt(word);
    if (equals < 0)
      throw new UsageError(
        `“${word}” is neither a file nor a pair.`,
        "write --as account.id=A-17 trips=140, or --as context.json",
      );
    const { path } = parsePath(word.slice(0, equals));
    if (!path)
      throw new UsageError(
        `“${word.slice(0, equals)}” is no path of an attribute.`,
        'write account.id, or claims["a name"]',
      );
    const text = word.slice(equals + 1);
    const type = definitions.attributes.get(printPath(path))?.type;
    const value = type === undefined ? scalar(text) : readDeclared(text, type);
    if (value === undefined) unreadable.push(word);
    else putAt(context, path, value);
  }
  return { context, unreadable };
}

/** The `=` behind the path; one inside brackets belongs to a name. */
function pairAt(word: string): number {
  const close = word.lastIndexOf('"]=');
  return close >= 0 ? close + 2 : word.indexOf("=");
}

async function isFile(path: string): Promise<boolean> {
  try {
    return (await stat(path)).isFile();
  } catch {
    return false;
  }
}

async function fromFile(path: string): Promise<GivenContext> {
  let context: unknown;
  try {
    const { parse } = await import("yaml");
    context = parse(await readFile(path, "utf8"));
  } catch (error) {
    throw new UsageError(
      `The context in “${path}” cannot be read: ${reasonOf(error)}`,
      "it must be one JSON or YAML object",
    );
  }
  if (isObject(context)) return { context: context as Record<string, unknown>, unreadable: [] };
  throw new UsageError(`“${path}” holds no object.`, "a context is an object of attributes");
}

/** An undeclared attribute is read as a JSON scalar where it is one, else as a text. */
function scalar(text: string): unknown {
  try {
    const value: unknown = JSON.parse(text);
    return typeof value === "object" && !Array.isArray(value) ? (value === null ? undefined : text) : value;
  } catch {
    return text;
  }
}
