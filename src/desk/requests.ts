import type { Context } from "hono";
import { isObject, own } from "../values/index.ts";
import { DeskFault } from "./desk-fault.ts";

/** What a request's body holds, taken field by field; what is missing or of another kind is said. */
export interface Fields {
  text(name: string): string;
  optional(name: string): string | undefined;
  flag(name: string): boolean;
  /** As it is, for whoever looks at it closer. */
  data(name: string): unknown;
  number(name: string): number;
  numbers(name: string): number[];
  texts(name: string): string[];
  each<T>(name: string, read: (item: Fields) => T): T[];
}

/** What somebody pastes may be long; the body as a whole is bounded. */
const longestText = 4_000_000;
const maxItems = 200_000;

/** What the body of a request holds. @throws {DeskFault} for one that is no JSON object */
export async function fieldsIn(c: Context): Promise<Fields> {
  return fieldsOf(await c.req.json().catch(() => undefined));
}

/** @throws {DeskFault} for a body that is not an object, and later for fields that are not what they must be */
function fieldsOf(body: unknown): Fields {
  if (!isObject(body)) throw new DeskFault(400, "The request holds no JSON object.");
  const optional = (name: string) => {
    const value = own(body, name);
    if (value === undefined || value === null) return undefined;
    if (typeof value === "string" && value.length <= longestText) return value;
    throw new DeskFault(400, `“${name}” must be a text.`);
  };
  const list = (name: string): readonly unknown[] => {
    const value = own(body, name);
    if (Array.isArray(value) && value.length <= maxItems) return value;
    throw new DeskFault(400, `“${name}” must be a list of at most ${maxItems}.`);
  };
  return {
    optional,
    text: (name) => {
      const value = optional(name);
      if (value === undefined) throw new DeskFault(400, `“${name}” is missing.`);
      return value;
    },
    flag: (name) => own(body, name) === true,
    data: (name) => own(body, name),
    number: (name) => {
      const value = own(body, name);
      if (typeof value === "number" && Number.isFinite(value)) return value;
      throw new DeskFault(400, `“${name}” must be a number.`);
    },
    numbers: (name) =>
      list(name).map((item) => {
        if (typeof item === "number" && Number.isFinite(item)) return item;
        throw new DeskFault(400, `“${name}” must be a list of numbers.`);
      }),
    texts: (name) =>
      list(name).map((item) => {
        if (typeof item === "string" && item.length <= longestText) return item;
        throw new DeskFault(400, `“${name}” must be a list of texts.`);
      }),
    each: (name, read) => list(name).map((item) => read(fieldsOf(item))),
  };
}
