import { readFile, stat } from "node:fs/promises";
import { reasonOf } from "../files/index.ts";
import { parsePath, printPath } from "../language/index.ts";
import { askedAttributes, type Definitions, putAt, readDeclared, readUndeclared } from "../model/index.ts";
import { isObject, nearest } from "../values/index.ts";
import { UsageError } from "./output.ts";

export interface GivenContext {
  readonly context: Record<string, unknown>;
  /** Values that could not be read by their attribute's declared type, and so count as missing. */
  readonly unreadable: readonly string[];
  /** Attributes that nothing reads, where one with a name like theirs is read. */
  readonly unread: readonly string[];
}

/** The context of `--as`: pairs such as account.id=A-17, or one JSON or YAML file. */
export async function givenContext(words: readonly string[], definitions: Definitions): Promise<GivenContext> {
  const [first] = words;
  if (words.length === 1 && first !== undefined && (await isFile(first))) return fromFile(first);
  const context: Record<string, unknown> = {};
  const unreadable: string[] = [];
  const unread: string[] = [];
  const asked = askedAttributes(definitions);
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
        `“${word.slice(0, equals)}” is not a path of an attribute.`,
        'write account.id, or claims["a name"]',
      );
    const text = word.slice(equals + 1);
    const name = printPath(path);
    const type = definitions.attributes.get(name)?.type;
    const value =
      type === undefined ? readUndeclared(text, asked.get(name)?.asText ?? false) : readDeclared(text, type);
    const near = asked.has(name) ? undefined : nearest(name, asked.keys());
    if (near !== undefined) unread.push(`nothing reads ${name}; did you mean ${near}?`);
    if (value === undefined) unreadable.push(word);
    else putAt(context, path, value);
  }
  return { context, unreadable, unread };
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
  if (isObject(context)) return { context: context as Record<string, unknown>, unreadable: [], unread: [] };
  throw new UsageError(`“${path}” holds no object.`, "a context is an object of attributes");
}
