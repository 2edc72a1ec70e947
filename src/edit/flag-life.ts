import { type Loaded, parseText, suspendedFile, ToolError } from "../files/index.ts";
import { parseCondition, testsOf } from "../language/index.ts";
import { type FlagDefinition, Graph, nodeKey, type Reference, writtenRules } from "../model/index.ts";
import { type Path, type Place, at as placeAt } from "../problems/index.ts";
import { isObject, own, sentenceList } from "../values/index.ts";
import { dataAt, type Edit } from "./edit.ts";
import type { FileChange } from "./edit-session.ts";
import { editText } from "./edit-text.ts";
import { flagCalled, mustBeFree } from "./find-flag.ts";
import { flagOrder } from "./flag-keys.ts";
import { saysNothing } from "./suspended-text.ts";

/** A flag under another name, or a second one like it. */
export interface RenameRequest {
  readonly flag: string;
  /** The new name. */
  readonly to: string;
}

/** A flag that goes. */
export interface RemoveRequest {
  readonly flag: string;
}

/**
 * The files with a flag under another name: conditions, passes and suspensions name it by the new one. People keep their
 * groups, because the old name becomes its salt.
 */
export function renameFlag({ flag: name, to }: RenameRequest, loaded: Loaded): readonly FileChange[] {
  const flag = flagCalled(name, loaded);
  mustBeFree(to, loaded);
  if (!loaded.suspensions) throw saysNothing(loaded);
  const edits = new FileEdits(loaded);
  for (const { place } of usesOf(flag, loaded)) edits.add(place.file, conditionEdit(place, name, to, loaded));
  for (const place of passesFor(name, loaded)) edits.add(place.file, { edit: "set", path: place.path, value: to });
  edits.add(flag.file, ...saltEdits(flag, flag.place.path), { edit: "rename", path: flag.place.path, to });
  if (isSuspended(name, loaded)) edits.add(suspendedFile, { edit: "rename", path: ["suspended", name], to });
  return edits.changes();
}

/** The file with a second flag that gives everybody what the first one gives. */
export function copyFlag({ flag: name, to }: RenameRequest, loaded: Loaded): readonly FileChange[] {
  const flag = flagCalled(name, loaded);
  mustBeFree(to, loaded);
  const path = [...flag.place.path.slice(0, -1), to];
  const value = dataAt(loaded.content.files.get(flag.file)!.parsed.data, flag.place.path);
  const edits = new FileEdits(loaded);
  edits.add(flag.file, { edit: "set", path, value, lines: true }, ...saltEdits(flag, path));
  return edits.changes();
}

/**
 * The file without a flag.
 *
 * @throws {ToolError} if something names it: a condition, passes, a suspension
 */
export function removeFlag({ flag: name }: RemoveRequest, loaded: Loaded): readonly FileChange[] {
  const flag = flagCalled(name, loaded);
  if (!loaded.suspensions) throw saysNothing(loaded);
  const users = usesOf(flag, loaded).map(({ user, where }) => `${user} (${where})`);
  const passes = passesFor(name, loaded).map(({ path }) => `the passes of ${path[1]}`);
  const stop = isSuspended(name, loaded) ? [suspendedFile] : [];
  const named = [...new Set([...users, ...passes, ...stop])];
  if (named.length > 0)
    throw new ToolError(
      `${name} cannot be removed: ${sentenceList(named)} ${named.length === 1 ? "names" : "name"} it.`,
      "change these first",
    );
  const edits = new FileEdits(loaded);
  edits.add(flag.file, { edit: "remove", path: flag.place.path });
  return edits.changes();
}

/** Edits by file, made to the texts at the end. */
class FileEdits {
  readonly #loaded: Loaded;
  readonly #edits = new Map<string, Edit[]>();

  constructor(loaded: Loaded) {
    this.#loaded = loaded;
  }

  add(file: string, ...edits: readonly Edit[]): void {
    this.#edits.set(file, [...(this.#edits.get(file) ?? []), ...edits]);
  }

  changes(): readonly FileChange[] {
    return [...this.#edits].map(([file, edits]) => ({
      file,
      text: editText(file, this.#loaded.content.files.get(file)!.text, edits),
    }));
  }
}

interface NamingPlace {
  readonly user: string;
  readonly where: string;
  readonly place: Place;
}

/** The conditions that name a flag, each place once. */
function usesOf({ name }: FlagDefinition, { definitions }: Loaded): readonly NamingPlace[] {
  const { flags, cohorts } = definitions!;
  const graph = new Graph(definitions!);
  const to = nodeKey("flag", name);
  const found = new Map<string, NamingPlace>();
  const note = (user: string, references: readonly Reference[]) => {
    for (const { to: named, where, place } of references) {
      if (named !== to) continue;
      const at = place();
      found.set(`${at.file} ${JSON.stringify(at.path)}`, { user, where, place: at });
    }
  };
  for (const user of flags.keys()) note(user, graph.from(nodeKey("flag", user)));
  for (const user of cohorts.keys()) note(`cohort:${user}`, graph.from(nodeKey("cohort", user)));
  return [...found.values()];
}

/** The places in the passes of environments at which a flag stands. */
function passesFor(name: string, { definitions }: Loaded): readonly Place[] {
  return [...definitions!.environments.values()].flatMap((environment) =>
    (environment.source.passes ?? []).flatMap((flag, i) =>
      flag === name ? [placeAt(environment.place, "passes", i)] : [],
    ),
  );
}

function isSuspended(name: string, { content }: Loaded): boolean {
  const text = content.files.get(suspendedFile)?.text;
  const held = text === undefined ? undefined : own(objectIn(parseText(suspendedFile, text).data), "suspended");
  return isObject(held) && Object.hasOwn(held, name);
}

function objectIn(data: unknown): object {
  return isObject(data) ? data : {};
}

/** The condition with the flag's new name in the place of the old one, and all else as it is written. */
function conditionEdit({ file, path }: Place, from: string, to: string, { content }: Loaded): Edit {
  const text = String(dataAt(content.files.get(file)!.parsed.data, path));
  const { condition } = parseCondition(text);
  const places = (condition ? testsOf(condition) : []).flatMap((test) =>
    test.kind === "test" && test.operand.kind === "flag" && test.operand.name === from ? [test.operand] : [],
  );
  const value = places.reduceRight(
    (before, { end }) => before.slice(0, end - from.length) + to + before.slice(end),
    text,
  );
  return { edit: "set", path, value };
}

/** Shares and splits go by the salt, which is the flag's name if nothing else is said. */
function saltEdits(flag: FlagDefinition, path: Path): readonly Edit[] {
  const rules = [...writtenRules(flag)].flatMap((written) => written.rules);
  const goesByName = rules.some(({ division, source }) => division !== undefined && source.salt === undefined);
  if (flag.source.salt !== undefined || !goesByName) return [];
  return [{ edit: "set", path: [...path, "salt"], value: flag.name, order: flagOrder }];
}
