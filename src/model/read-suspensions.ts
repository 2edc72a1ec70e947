import { at, type Place, Problems } from "../problems/index.ts";
import { type Document, suspensionFile, Walk } from "../source/index.ts";
import { isName, isObject, limits, own } from "../values/index.ts";
import type { Stop, Suspension } from "./stops.ts";

/**
 * Whatever can be read in the file takes effect, so that an emergency stop made in haste stops something. The rest is
 * reported, and never keeps a set from being used.
 */
export function readSuspensions(document: Document | undefined, problems: Problems): Map<string, Suspension> {
  const suspensions = new Map<string, Suspension>();
  if (!document) return suspensions;
  reportShape(document, problems);
  const members = membersOf(document);
  if (members === undefined) return suspensions;
  const place: Place = { file: document.file, path: ["suspended"] };
  for (const flag of Object.keys(members)) {
    if (!isName(flag)) continue;
    suspensions.set(flag, readSuspension(flag, own(members, flag), at(place, flag)));
  }
  return suspensions;
}

/** Does the file say which flags are suspended? One that was cut off or emptied does not: the last ones stay then. */
export function saysSuspensions(document: Document): boolean {
  return membersOf(document) !== undefined;
}

function membersOf({ data }: Document): object | undefined {
  const members = isObject(data) ? own(data, "suspended") : undefined;
  return isObject(members) ? members : undefined;
}

function reportShape(document: Document, problems: Problems): void {
  const found = new Problems();
  const walk = new Walk(found, document.file);
  suspensionFile.read(document.data, walk);
  const version = isObject(document.data) ? own(document.data, "iudex") : undefined;
  if (isObject(document.data) && version !== undefined && version !== limits.formatVersion) {
    found.report(
      "suspension-fault",
      { file: document.file, path: ["iudex"] },
      {
        message: `This file is written in format ${String(version)}; this Iudex reads format ${limits.formatVersion}.`,
        expected: `iudex: ${limits.formatVersion}`,
      },
    );
  }
  for (const { place, message, found: what, expected, help } of found.all) {
    problems.report("suspension-fault", place, { message, found: what, expected, help });
  }
}

/** Any entry behind a flag's name stops it, readable or not. */
function readSuspension(flag: string, source: unknown, place: Place): Suspension {
  const isList = Array.isArray(source) && source.length > 0;
  const stops = isList ? source.map((stop, i) => readStop(stop, at(place, i))) : [readStop(source, place)];
  return { flag, place, stops };
}

/** Where it cannot be read in which environments it holds, it holds in every one. */
function readStop(source: unknown, place: Place): Stop {
  const member = (key: string) => (isObject(source) ? own(source, key) : undefined);
  const text = (key: string) => {
    const value = member(key);
    return typeof value === "string" ? value : undefined;
  };
  const names = (key: string, other: string) => {
    const value = member(other) === undefined ? member(key) : undefined;
    return Array.isArray(value) && value.length > 0 && value.every((name) => typeof name === "string")
      ? value
      : undefined;
  };
  return {
    place,
    since: text("since"),
    who: text("who"),
    note: text("note"),
    in: names("in", "except"),
    except: names("except", "in"),
  };
}
