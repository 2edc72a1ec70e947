import type { Loaded } from "../../folder/index.ts";
import { suspendedFile } from "../../folder/scan.ts";
import { isObject, own } from "../../values/data.ts";
import { nearest, sentenceList } from "../../values/names.ts";
import { ToolError } from "../tool-error.ts";
import type { FileChange } from "./change-folder.ts";
import { editText } from "./edit-text.ts";

export interface SuspendRequest {
  readonly flag: string;
  /** One environment; every one if left out. */
  readonly environment?: string | undefined;
  readonly who?: string | undefined;
  readonly note?: string | undefined;
  /** Epoch milliseconds. */
  readonly at: number;
}

/** What nobody has to change is said so, and is no error. */
export class NothingToChange extends Error {}

const order = ["since", "who", "note", "in"];

/** `suspended.yaml` with a flag stopped; in an environment, or in every one. */
export function suspend(loaded: Loaded, request: SuspendRequest): FileChange {
  const { flag, environment, who, note, at } = request;
  mustBeKnown(flag, loaded);
  if (environment !== undefined) mustBeEnvironment(environment, loaded);
  const text = suspendedText(loaded);
  const entry = entryOf(flag, loaded);
  const since = `${new Date(at).toISOString().slice(0, 16)}Z`;
  const fresh = { since, ...(who ? { who } : {}), ...(note ? { note } : {}) };
  if (!entry) {
    const value = { ...fresh, ...(environment === undefined ? {} : { in: [environment] }) };
    return {
      file: suspendedFile,
      text: editText(suspendedFile, text, [{ edit: "set", path: ["suspended", flag], value }]),
    };
  }
  const holds = own(entry, "in");
  if (!Array.isArray(holds)) throw new NothingToChange(`${flag} is suspended in every environment already.`);
  if (environment !== undefined && holds.includes(environment)) {
    throw new NothingToChange(`${flag} is suspended in ${environment} already.`);
  }
  const all = environment === undefined ? undefined : [...holds, environment];
  const { in: _, ...kept } = entry as { in?: unknown };
  const value = { ...kept, ...fresh, ...(all ? { in: all } : {}) };
  const ordered = Object.fromEntries(
    order.flatMap((key) => (Object.hasOwn(value, key) ? [[key, own(value, key)]] : [])),
  );
  return {
    file: suspendedFile,
    text: editText(suspendedFile, text, [{ edit: "set", path: ["suspended", flag], value: ordered }]),
  };
}

/** `suspended.yaml` with a flag judged by its rules again; in an environment, or in every one. */
export function reinstate(loaded: Loaded, { flag, environment }: SuspendRequest): FileChange {
  const entry = entryOf(flag, loaded);
  if (!entry) {
    const near = nearest(flag, Object.keys(suspensions(loaded)));
    if (near) throw new ToolError(`“${flag}” is not suspended.`, `did you mean ${near}?`);
    mustBeKnown(flag, loaded);
    throw new NothingToChange(`${flag} is not suspended.`);
  }
  const text = suspendedText(loaded);
  const without = () => editText(suspendedFile, text, [{ edit: "remove", path: ["suspended", flag] }]);
  if (environment === undefined) return { file: suspendedFile, text: without() };
  mustBeEnvironment(environment, loaded);
  const holds = own(entry, "in");
  const before = Array.isArray(holds) ? holds : [...(loaded.definitions?.environments.keys() ?? [])];
  if (!before.includes(environment)) throw new NothingToChange(`${flag} is not suspended in ${environment}.`);
  const left = before.filter((name) => name !== environment);
  if (left.length === 0) return { file: suspendedFile, text: without() };
  const path = ["suspended", flag, "in"];
  return { file: suspendedFile, text: editText(suspendedFile, text, [{ edit: "set", path, value: left, order }]) };
}

function suspendedText({ content }: Loaded): string {
  return content.files.get(suspendedFile)?.text ?? "iudex: 1\nsuspended: {}\n";
}

function suspensions({ content }: Loaded): object {
  const data = content.files.get(suspendedFile)?.parsed.data;
  const held = isObject(data) ? own(data, "suspended") : undefined;
  return isObject(held) ? held : {};
}

function entryOf(flag: string, loaded: Loaded): object | undefined {
  const entry = own(suspensions(loaded), flag);
  return isObject(entry) ? entry : entry === null ? {} : undefined;
}

/** Where files are broken, the flags of those that can be read are known; the others are taken on trust. */
function mustBeKnown(flag: string, { definitions, content }: Loaded): void {
  const names = definitions ? [...definitions.flags.keys()] : flagsIn(content);
  if (names.includes(flag)) return;
  const isBroken = [...content.files.values()].some(({ parsed }) => parsed.faults.length > 0);
  if (!definitions && isBroken) return;
  const near = nearest(flag, names);
  throw new ToolError(
    `There is no flag “${flag}”.`,
    near ? `did you mean ${near}?` : `there are ${sentenceList([...names].sort())}`,
  );
}

function flagsIn({ files }: Loaded["content"]): string[] {
  return [...files.values()].flatMap(({ parsed: { data } }) => {
    const flags = isObject(data) ? own(data, "flags") : undefined;
    return isObject(flags) ? Object.keys(flags) : [];
  });
}

export function mustBeEnvironment(name: string, { definitions }: Loaded): void {
  const known = [...(definitions?.environments.keys() ?? [])];
  if (!definitions || known.includes(name)) return;
  const near = nearest(name, known);
  throw new ToolError(
    `There is no environment “${name}”.`,
    near ? `did you mean ${near}?` : `there are ${sentenceList(known)}`,
  );
}
