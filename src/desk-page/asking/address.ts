import { parsePath, printPath } from "../../language/index.ts";
import { putAt } from "../../model/index.ts";
import { isObject, parseTime } from "../../values/index.ts";
import {
  allFlags,
  type Circumstances,
  everyone,
  type Filter,
  filters,
  type Question,
  type Shown,
  type Whom,
} from "./question.ts";

/** Which attributes must not be written into an address. */
export type IsPrivate = (attribute: string) => boolean;

/** Everything by a path, deepest first: `account.id`, `claims["a name"]`. */
export function* attributesOf(
  context: Readonly<Record<string, unknown>>,
  front: readonly string[] = [],
): Generator<readonly [attribute: string, value: unknown]> {
  for (const [key, value] of Object.entries(context)) {
    const path = [...front, key];
    if (isObject(value)) yield* attributesOf(value as Record<string, unknown>, path);
    else yield [printPath(path), value];
  }
}

/** A question as the part of an address behind `#`. Private attributes are named, and left out. */
export function addressOf({ asked, against, shown }: Question, isPrivate: IsPrivate): string {
  const query = new URLSearchParams();
  write(asked, "", query, isPrivate);
  if (against) {
    query.set("against", "yes");
    write(against, "other-", query, isPrivate);
  }
  if (shown.view === "flags") {
    if (shown.find !== "") query.set("find", shown.find);
    if (shown.only !== "all") query.set("only", shown.only);
  }
  const text = query.toString();
  return `#/${pathOf(shown)}${text === "" ? "" : `?${text}`}`;
}

function pathOf(shown: Shown): string {
  const name = "name" in shown ? shown.name : undefined;
  if (shown.view === "flag") return `flags/${encodeURIComponent(shown.name)}`;
  return name === undefined ? shown.view : `${shown.view}/${encodeURIComponent(name)}`;
}

function write(
  { whom, environment, at, by }: Circumstances,
  front: string,
  query: URLSearchParams,
  isPrivate: IsPrivate,
) {
  if (whom.kind === "people") query.set(`${front}people`, whom.file);
  if (whom.kind === "person") {
    const lacks = new Set(whom.lacks);
    for (const [attribute, value] of attributesOf(whom.context)) {
      if (isPrivate(attribute)) lacks.add(attribute);
      else query.append(`${front}for`, `${attribute}=${JSON.stringify(value)}`);
    }
    for (const attribute of lacks) query.append(`${front}lacks`, attribute);
    if (!query.has(`${front}for`) && lacks.size === 0) query.append(`${front}for`, "");
  }
  query.set(`${front}in`, environment ?? "every");
  if (at !== undefined) query.set(`${front}at`, new Date(at).toISOString().replace(/:00\.000Z$/, "Z"));
  if (by !== "files") query.set(`${front}by`, by);
}

/**
 * The question that an address asks. What cannot be read of it is left at what a first visit asks.
 *
 * @param environment what a first visit asks for
 */
export function questionIn(hash: string, environment: string | undefined): Question {
  const [path = "", text = ""] = hash.replace(/^#\/?/, "").split("?");
  const query = new URLSearchParams(text);
  return {
    asked: read("", query, environment),
    against: query.has("against") ? read("other-", query, environment) : undefined,
    shown: shownIn(path, query),
  };
}

function read(front: string, query: URLSearchParams, environment: string | undefined): Circumstances {
  const where = query.get(`${front}in`);
  const at = parseTime(query.get(`${front}at`) ?? "");
  return {
    whom: whomIn(front, query),
    environment: where === null ? environment : where === "every" ? undefined : where,
    at: Number.isNaN(at) ? undefined : at,
    by: query.get(`${front}by`) ?? "files",
  };
}

function whomIn(front: string, query: URLSearchParams): Whom {
  const file = query.get(`${front}people`);
  if (file !== null) return { kind: "people", file };
  const pairs = query.getAll(`${front}for`);
  const lacks = query.getAll(`${front}lacks`);
  if (pairs.length === 0 && lacks.length === 0) return everyone;
  const context: Record<string, unknown> = {};
  for (const pair of pairs) {
    const equals = pair.startsWith("[") || pair.includes('"]=') ? pair.indexOf('"]=') + 2 : pair.indexOf("=");
    const { path } = parsePath(pair.slice(0, Math.max(0, equals)));
    if (path) putAt(context, path, valueIn(pair.slice(equals + 1)));
  }
  return { kind: "person", context, lacks };
}

function valueIn(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text;
  }
}

const places = ["cohorts", "windows", "attributes"] as const;
const sheets = ["coming", "history", "problems", "review", "shelf"] as const;

function shownIn(path: string, query: URLSearchParams): Shown {
  const [view = "", name] = path.split("/").map(decode);
  if (view === "flags" && name) return { view: "flag", name };
  const place = places.find((each) => each === view);
  if (place) return { view: place, name: name || undefined };
  const sheet = sheets.find((each) => each === view);
  if (sheet) return { view: sheet };
  const only = filters.find((each): each is Filter => each === query.get("only")) ?? "all";
  return { ...allFlags, find: query.get("find") ?? "", only } as Shown;
}

function decode(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}
