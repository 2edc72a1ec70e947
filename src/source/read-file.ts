import { atKey, type Problems } from "../problems/index.ts";
import { copyData, describeKind, findNotPlain, isObject, limits, own, show } from "../values/index.ts";
import type { Document, SourceFile } from "./entries.ts";
import { definitionFile, flagsOfFile } from "./format/files.ts";
import { keysOfFlags } from "./format/flags.ts";
import { reportNotPlain } from "./plain.ts";
import { Walk } from "./walk.ts";

/** Looks at the format version and at the shape of a file; undefined when nothing in it can be used. */
export function readFile(given: Document, problems: Problems): SourceFile | undefined {
  const { file, data } = given;
  const walk = new Walk(problems, file);
  if (!isObject(data)) {
    walk.report("format-missing", {
      message: "This file is not an object with definitions.",
      found: data === null || data === undefined ? "an empty file" : describeKind(data),
      expected: `${definitionFile.expected}`,
      help: `begin the file with “iudex: ${limits.formatVersion}”`,
    });
    return undefined;
  }
  // What a parser made is plain; only the values that files hold freely are looked into, where they stand.
  if (!given.unchanging && !isPlain(data, walk)) return undefined;
  const document = readable(given);
  const hasVersion = checkFormatVersion(data, file, problems);
  if (!hasVersion && own(data, "iudex") !== undefined) return undefined;
  // Without a version the rest is read as if it stood there, so that one run shows all problems.
  const whole = hasVersion ? document.data : { iudex: limits.formatVersion, ...(document.data as object) };
  const source = definitionFile.read(whole, walk);
  return source && { document, source };
}

/** Reads as `readFile` does, and pauses often where there are many flags. */
export function* readFileInSteps(
  given: Document,
  problems: Problems,
): Generator<undefined, SourceFile | undefined, undefined> {
  const { data } = given;
  if (!isObject(data) || !isObject(own(data, "flags")) || readable(given) !== given) return readFile(given, problems);
  const rest = readFile({ ...given, data: { ...data, flags: {} } }, problems);
  if (rest === undefined) return undefined;
  const walk = new Walk(problems, given.file);
  walk.path.push("flags");
  const flags = yield* flagsOfFile.readInSteps(own(data, "flags"), walk);
  return { document: given, source: { ...rest.source, flags: flags ?? {} } };
}

/** Programs may hand in anything. */
function isPlain(data: object, walk: Walk): boolean {
  const fault = findNotPlain(data);
  if (fault) reportNotPlain(fault, walk);
  return fault === undefined;
}

/**
 * The document, or a copy: a program may go on changing what it handed in, and the set must not change with it. Where
 * somebody has put a key of the format on `Object.prototype`, the copy has none, so that only own keys are seen.
 */
function readable(document: Document): Document {
  const prototype = keysOfFlags.some((key) => key in Object.prototype) ? null : Object.prototype;
  if (document.unchanging && prototype !== null) return document;
  return { ...document, data: copyData(document.data, prototype) };
}

/** Whether a file says the format version that this code reads; reports it if not. */
export function checkFormatVersion(data: object, file: string, problems: Problems): boolean {
  const version = own(data, "iudex");
  if (version === limits.formatVersion) return true;
  if (!Object.hasOwn(data, "iudex")) {
    const place = { file, path: [] };
    problems.report("format-missing", place, {
      message: "The format version is missing.",
      expected: `iudex: ${limits.formatVersion}`,
      help: `write “iudex: ${limits.formatVersion}” as the first line`,
    });
    return false;
  }
  const newer = typeof version === "number" && Number.isInteger(version) && version > limits.formatVersion;
  problems.report(newer ? "format-newer" : "format-missing", atKey({ file, path: [] }, "iudex"), {
    message: newer
      ? `This file is written in format ${version}; this Iudex reads format ${limits.formatVersion}.`
      : "This is not a format version.",
    found: show(version),
    expected: `iudex: ${limits.formatVersion}`,
    help: newer ? "update Iudex, or write the file in the older format" : `write iudex: ${limits.formatVersion}`,
  });
  return false;
}
