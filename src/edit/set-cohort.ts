import { type Loaded, ToolError } from "../files/index.ts";
import { parsePath } from "../language/index.ts";
import { didYouMean, isName, nameRule, noSuch, parseRange } from "../values/index.ts";
import type { Edit } from "./edit.ts";
import { type FileChange, isList, nameOf } from "./edit-session.ts";
import { editText } from "./edit-text.ts";
import { cohortOrder, ordered } from "./flag-keys.ts";
import { homeFor } from "./home-file.ts";
import { newList } from "./list-edit.ts";

/** A cohort that is not there yet, or what is to be set of one. */
export interface SetCohortRequest {
  readonly cohort: string;
  /** True makes a new one. */
  readonly isNew?: boolean | undefined;
  /** For a new one: the definition file; the only one with cohorts if left out. */
  readonly file?: string | undefined;
  readonly about?: string | undefined;
  /** For a cohort by a condition. */
  readonly when?: string | undefined;
  /** For a cohort by lot: `20%`. */
  readonly share?: string | undefined;
  /** By which attribute the lot is drawn. */
  readonly by?: string | undefined;
  /** For a list: the attribute that holds the id. */
  readonly of?: string | undefined;
  /** For a new list: its ids. */
  readonly ids?: readonly string[] | undefined;
  /** For a new list: the list file that is to hold the ids, such as `lists/captains.csv`; in place if left out. */
  readonly list?: string | undefined;
  /** The column of a CSV list; the first if left out. */
  readonly column?: string | undefined;
}

/** The files of a cohort, made or changed. */
export function setCohort(request: SetCohortRequest, loaded: Loaded): readonly FileChange[] {
  const { cohort: name, share, of, by } = request;
  if (share !== undefined && !parseRange(share))
    throw new ToolError(`“${share}” is not a share.`, "write 20%, or 20% to 45%");
  for (const path of [of, by])
    if (path !== undefined && !parsePath(path).path)
      throw new ToolError(`“${path}” is not a path of an attribute.`, "write account.id");
  const known = loaded.definitions?.cohorts.get(name);
  if (request.isNew) {
    if (known)
      throw new ToolError(`There is a cohort “${name}” already, in ${known.place.file}.`, "choose another name");
    return made(request, loaded);
  }
  if (!known) {
    const help = didYouMean(name, loaded.definitions?.cohorts.keys() ?? []);
    throw new ToolError(noSuch("cohort", name), help ?? "see iudex list cohorts");
  }
  const kept = { condition: ["about", "when"], lot: ["about", "share", "by"], list: ["about", "of"] }[known.kind];
  const edits: Edit[] = [];
  for (const key of ["about", "when", "share", "by", "of"] as const) {
    const value = request[key];
    if (value === undefined) continue;
    if (!kept.includes(key))
      throw new ToolError(`${name} is a cohort by ${known.kind}; it has no “${key}”.`, "make a new cohort");
    edits.push({ edit: "set", path: [...known.place.path, key], value, order: cohortOrder });
  }
  if (edits.length === 0) throw new ToolError("There is nothing to set.", "say --about, --when, --share, --by or --of");
  const { file } = known.place;
  return [{ file, text: editText(file, loaded.content.files.get(file)!.text, edits) }];
}

function isPlainName(part: string): boolean {
  return /^[A-Za-z0-9_][A-Za-z0-9_.-]*$/.test(part);
}

function made(request: SetCohortRequest, loaded: Loaded): readonly FileChange[] {
  const { cohort: name, about, when, share, by, of, ids, list, column } = request;
  if (!isName(name)) throw new ToolError(`“${name}” is not a name of a cohort.`, nameRule);
  const kinds = [when, share, of].filter((each) => each !== undefined).length;
  if (kinds !== 1) {
    throw new ToolError("A cohort is by a condition, by lot, or a list.", "say one of --when, --share and --of");
  }
  if (list !== undefined && !(isList(list) && nameOf(list).split("/").every(isPlainName)))
    throw new ToolError(`“${list}” is not a name for a list.`, "write lists/captains.csv, inside the folder");
  const inPlace = of !== undefined && list === undefined ? (ids ?? []) : undefined;
  const value = ordered({ about, when, share, by, of, ids: inPlace, file: list, column }, cohortOrder);
  const { file, text } = homeFor("cohorts", request.file, loaded);
  const definition = {
    file,
    text: editText(file, text, [{ edit: "set", path: ["cohorts", name], value, lines: true }]),
  };
  if (list === undefined) return [definition];
  return [definition, { file: newListName(list, loaded), text: newList(list, column ?? "id", ids ?? []) }];
}

/** A new list never takes the place of a file that is there, whatever it is. */
function newListName(list: string, { content: { source } }: Loaded): string {
  const name = nameOf(list);
  const isTaken = source.entries.has(name) || source.faults.some(({ file }) => file === name);
  if (isTaken) throw new ToolError(`There is a file “${name}” already.`, "choose another name for the list");
  return name;
}
