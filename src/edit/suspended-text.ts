import { type Loaded, parseText, suspendedData, suspendedFile, ToolError, unsaidSuspensions } from "../files/index.ts";
import type { Definitions } from "../model/index.ts";
import { isObject, own } from "../values/index.ts";
import { editText } from "./edit-text.ts";

type Suspensions = Definitions["suspensions"];

/** `suspended.yaml`, as far as it can be gone on with. */
export interface SuspendedText {
  /** A text that can hold a stop. */
  readonly text: string;
  /** What stands in it, by flag. */
  readonly held: object;
}

/**
 * The file, made into one that can hold a stop: nothing of it is lost, but what tells nobody anything.
 *
 * @param known what was suspended last, if that is known: a file that cannot tell is written anew with it
 * @throws {ToolError} where the file cannot tell what is suspended, and nobody else can
 */
export function suspendedTextOf(loaded: Loaded, known: Suspensions | undefined): SuspendedText {
  if (!loaded.suspensions && known) return { text: anew(known), held: suspendedData(known) };
  const text = loaded.content.files.get(suspendedFile)?.text ?? "";
  const { data, faults } = parseText(suspendedFile, text);
  if (data === undefined && faults.length > 0) throw saysNothing(loaded);
  if (isObject(data)) return { text: withVersion(text, data), held: heldIn(data) };
  if (data !== null && data !== undefined) {
    throw new ToolError(
      `${suspendedFile} is not an object, so nothing can be added to it.`,
      "empty the file and try again",
    );
  }
  const comments = text === "" || text.endsWith("\n") ? text : `${text}\n`;
  return { text: `${comments}iudex: 1\nsuspended: {}\n`, held: {} };
}

function withVersion(text: string, data: object): string {
  if (Object.hasOwn(data, "iudex")) return text;
  return editText(suspendedFile, text, [{ edit: "set", path: ["iudex"], value: 1, order: ["iudex", "suspended"] }]);
}

/** A text of the file that also holds the stops of another one. */
export function withStops(text: string, other: string): string {
  const held = (of: string) => heldIn(objectOf(parseText(suspendedFile, of).data));
  const now = held(text);
  const lost = Object.entries(held(other)).filter(([flag]) => !Object.hasOwn(now, flag));
  return withEach(text, lost);
}

function objectOf(data: unknown): object {
  return isObject(data) ? data : {};
}

function heldIn(data: object): object {
  const held = own(data, "suspended");
  return isObject(held) ? held : {};
}

function anew(known: Suspensions): string {
  return withEach("iudex: 1\nsuspended: {}\n", Object.entries(suspendedData(known)));
}

function withEach(text: string, stops: readonly (readonly [flag: string, stop: unknown])[]): string {
  const edits = stops.map(([flag, value]) => ({ edit: "set" as const, path: ["suspended", flag], value }));
  return editText(suspendedFile, text, edits);
}

/** A file that does not say what is suspended. */
export function saysNothing(loaded: Loaded): ToolError {
  return new ToolError(
    `${unsaidSuspensions(loaded)}, so running programs go on with what was.`,
    "mend it by hand: it says suspended: {} where nothing is",
  );
}
