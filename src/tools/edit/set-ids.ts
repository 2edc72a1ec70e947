import type { Loaded } from "../../folder/index.ts";
import { didYouMean, noSuch } from "../../values/index.ts";
import { ToolError } from "../tool-error.ts";
import { NothingToChange } from "./change-folder.ts";
import { editText } from "./edit-text.ts";
import type { FileChange } from "./workplace.ts";

/** Which ids a cohort is to have, and which not. */
export interface SetIdsRequest {
  readonly cohort: string;
  readonly add?: readonly string[] | undefined;
  readonly drop?: readonly string[] | undefined;
}

/** The file of a cohort whose ids stand in its definition, with some of them added or taken out. */
export function setIds(loaded: Loaded, { cohort: name, add = [], drop = [] }: SetIdsRequest): FileChange {
  const { definitions, content } = loaded;
  if (!definitions) throw new ToolError("The definitions cannot be used as they are.", "mend them first: iudex check");
  const cohort = definitions.cohorts.get(name);
  if (!cohort)
    throw new ToolError(
      noSuch("cohort", name),
      didYouMean(name, definitions.cohorts.keys()) ?? "see iudex list cohorts",
    );
  if (cohort.kind !== "list")
    throw new ToolError(`${name} is no list of ids.`, "edit its condition or share in the file");
  if (cohort.file !== undefined) throw new ToolError(`The ids of ${name} stand in ${cohort.file}.`, "edit that file");
  if (cohort.hashed !== undefined)
    throw new ToolError(`The ids of ${name} stand as digests.`, "change them where they come from");
  const { file, path } = cohort.place;
  const held = idsAt(content.files.get(file)?.parsed.data, path);
  const ids = held.filter((id) => !drop.includes(String(id)));
  const known = new Set(ids.map(String));
  const fresh = add.filter((id) => !known.has(id));
  if (fresh.length === 0 && ids.length === held.length) throw new NothingToChange(`${name} has these ids already.`);
  const value = [...ids, ...fresh];
  const text = content.files.get(file)!.text;
  return { file, text: editText(file, text, [{ edit: "set", path: [...path, "ids"], value }]) };
}

function idsAt(data: unknown, path: readonly (string | number)[]): readonly (string | number)[] {
  const at = [...path, "ids"].reduce<unknown>(
    (value, step) => (value as Record<string | number, unknown> | undefined)?.[step],
    data,
  );
  return Array.isArray(at) ? at : [];
}
