import { type Loaded, parseText, suspendedData, suspendedFile, ToolError, unsaidSuspensions } from "../files/index.ts";
import type { Definitions } from "../model/index.ts";
import { didYouMean, isObject, noSuch, own, sentenceList } from "../values/index.ts";
import { NothingToChange } from "./change-folder.ts";
import type { FileChange } from "./edit-session.ts";
import { editText } from "./edit-text.ts";

/** Which flag is stopped or started again, where, by whom and why. */
export interface SuspendRequest {
  readonly flag: string;
  /** One environment; every one if left out. */
  readonly environment?: string | undefined;
  readonly who?: string | undefined;
  readonly note?: string | undefined;
  /** Epoch milliseconds. */
  readonly at: number;
  /** What was suspended last, if that is known: a file that cannot tell is written anew with it. */
  readonly known?: Definitions["suspensions"] | undefined;
}

const order = ["since", "who", "note", "in"];

/** `suspended.yaml` with a flag stopped; in an environment, or in every one. */
export function suspend(loaded: Loaded, request: SuspendRequest): FileChange {
  const { flag, environment, who, note, at, known } = request;
  mustBeKnown(flag, loaded);
  if (environment !== undefined) mustBeEnvironment(environment, loaded);
  const entry = entryOf(flag, suspensions(loaded, known));
  const changed = (value: object) => withEntry(suspendedText(loaded, known), flag, value);
  const since = `${new Date(at).toISOString().slice(0, 16)}Z`;
  const fresh = { since, ...(who ? { who } : {}), ...(note ? { note } : {}) };
  if (!entry) return changed({ ...fresh, ...(environment === undefined ? {} : { in: [environment] }) });
  const holds = own(entry, "in");
  if (!Array.isArray(holds)) throw new NothingToChange(`${flag} is suspended in every environment already.`);
  if (environment !== undefined && holds.includes(environment)) {
    throw new NothingToChange(`${flag} is suspended in ${environment} already.`);
  }
  const all = environment === undefined ? undefined : [...holds, environment];
  const { in: _, ...kept } = entry as { in?: unknown };
  const value = { ...kept, ...fresh, ...(all ? { in: all } : {}) };
  return changed(
    Object.fromEntries(order.flatMap((key) => (Object.hasOwn(value, key) ? [[key, own(value, key)]] : []))),
  );
}

function withEntry(text: string, flag: string, value: object): FileChange {
  return {
    file: suspendedFile,
    text: editText(suspendedFile, text, [{ edit: "set", path: ["suspended", flag], value }]),
  };
}

/** `suspended.yaml` with a flag judged by its rules again; in an environment, or in every one. */
export function reinstate(loaded: Loaded, { flag, environment, known }: SuspendRequest): FileChange {
  const held = suspensions(loaded, known);
  const entry = entryOf(flag, held);
  if (environment !== undefined) mustBeEnvironment(environment, loaded);
  if (!entry) {
    if (!loaded.suspensions && !known) throw saysNothing(loaded);
    const help = didYouMean(flag, Object.keys(held));
    if (help) throw new ToolError(`“${flag}” is not suspended.`, help);
    mustBeKnown(flag, loaded);
    throw new NothingToChange(`${flag} is not suspended.`);
  }
  const text = suspendedText(loaded, known);
  const without = () => editText(suspendedFile, text, [{ edit: "remove", path: ["suspended", flag] }]);
  if (environment === undefined) return { file: suspendedFile, text: without() };
  const holds = own(entry, "in");
  const before = Array.isArray(holds) ? holds : environmentsOf(loaded);
  if (!before.includes(environment)) throw new NothingToChange(`${flag} is not suspended in ${environment}.`);
  const left = before.filter((name) => name !== environment);
  if (left.length === 0) return { file: suspendedFile, text: without() };
  return withEntry(text, flag, { ...entry, in: left });
}

/** The file, made into one that can hold a suspension: nothing of it is lost, but what tells nobody anything. */
function suspendedText(loaded: Loaded, known: SuspendRequest["known"]): string {
  if (!loaded.suspensions && known) return anew(known);
  const text = loaded.content.files.get(suspendedFile)?.text ?? "";
  const { data, faults } = parseText(suspendedFile, text);
  if (data === undefined && faults.length > 0) throw saysNothing(loaded);
  if (isObject(data)) {
    return Object.hasOwn(data, "iudex")
      ? text
      : editText(suspendedFile, text, [{ edit: "set", path: ["iudex"], value: 1, order: ["iudex", "suspended"] }]);
  }
  if (data !== null && data !== undefined) {
    throw new ToolError(
      `${suspendedFile} is no object, so nothing can be added to it.`,
      "empty the file and try again",
    );
  }
  const comments = text === "" || text.endsWith("\n") ? text : `${text}\n`;
  return `${comments}iudex: 1\nsuspended: {}\n`;
}

function anew(known: Definitions["suspensions"]): string {
  const edits = Object.entries(suspendedData(known)).map(([flag, value]) => ({
    edit: "set" as const,
    path: ["suspended", flag],
    value,
  }));
  return editText(suspendedFile, "iudex: 1\nsuspended: {}\n", edits);
}

function saysNothing(loaded: Loaded): ToolError {
  return new ToolError(
    `${unsaidSuspensions(loaded)}, so running programs go on with what was.`,
    "mend it by hand: it says suspended: {} where nothing is",
  );
}

function suspensions({ content, suspensions: said }: Loaded, known: SuspendRequest["known"]): object {
  if (!said && known) return suspendedData(known);
  const data = content.files.get(suspendedFile)?.parsed.data;
  const held = isObject(data) ? own(data, "suspended") : undefined;
  return isObject(held) ? held : {};
}

/** Whatever stands behind a flag's name suspends it, be it ever so odd. */
function entryOf(flag: string, held: object): object | undefined {
  if (!Object.hasOwn(held, flag)) return undefined;
  const entry = own(held, flag);
  return isObject(entry) ? entry : {};
}

/** Where files are broken, the flags of those that can be read are known; the others are taken on trust. */
function mustBeKnown(flag: string, loaded: Loaded): void {
  const { definitions } = loaded;
  const names = definitions ? [...definitions.flags.keys()] : namesIn(loaded, "flags");
  if (names.includes(flag) || (!definitions && isBroken(loaded))) return;
  const help =
    didYouMean(flag, names) ?? (names.length > 0 ? `there are ${sentenceList([...names].sort())}` : "none is defined");
  throw new ToolError(noSuch("flag", flag), help);
}

function isBroken({ content }: Loaded): boolean {
  return [...content.files.values()].some(({ parsed }) => parsed.faults.length > 0);
}

function namesIn({ content: { files } }: Loaded, section: "flags" | "environments"): string[] {
  return [...files.values()].flatMap(({ parsed: { data } }) => {
    const members = isObject(data) ? own(data, section) : undefined;
    return isObject(members) ? Object.keys(members) : [];
  });
}

function environmentsOf(loaded: Loaded): string[] {
  return loaded.definitions ? [...loaded.definitions.environments.keys()] : namesIn(loaded, "environments");
}

/** A misspelt environment is an error also while other files are broken, if any that can be read declares some. */
export function mustBeEnvironment(name: string, loaded: Loaded): void {
  const known = environmentsOf(loaded);
  if (known.includes(name) || (!loaded.definitions && known.length === 0)) return;
  const help =
    didYouMean(name, known) ?? (known.length > 0 ? `there are ${sentenceList(known)}` : "the files declare none");
  throw new ToolError(noSuch("environment", name), help);
}
