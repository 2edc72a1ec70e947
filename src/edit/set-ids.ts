import { ToolError } from "../files/index.ts";
import type { ListCohort } from "../model/index.ts";
import { didYouMean, noSuch } from "../values/index.ts";
import { NothingToChange } from "./change-folder.ts";
import type { Edit } from "./edit.ts";
import type { EditSession, FileChange } from "./edit-session.ts";
import { editText } from "./edit-text.ts";
import { editList } from "./list-edit.ts";

/** Which ids a cohort is to have, and which not. */
export interface SetIdsRequest {
  readonly cohort: string;
  readonly add?: readonly string[] | undefined;
  readonly drop?: readonly string[] | undefined;
}

/**
 * The file of a cohort's ids, its definition or its list, with some of them added or taken out; every other line of a
 * list, and every other column, stays as it is.
 */
export async function setIds(request: SetIdsRequest, work: EditSession): Promise<FileChange> {
  const cohort = listCohort(request.cohort, work);
  const { name, file: list, column } = cohort;
  if (list === undefined) return inPlace(cohort, request, work);
  const text = await work.textOf(list);
  if (text === undefined) throw new ToolError(`The list “${list}” of ${name} is not there.`, "see iudex check");
  const edited = editList(list, text, column, request);
  if (edited.added === 0 && edited.dropped === 0) throw new NothingToChange(`${name} has these ids already.`);
  return { file: list, text: edited.text };
}

function listCohort(name: string, { loaded: { definitions } }: EditSession): ListCohort {
  if (!definitions) throw new ToolError("The definitions cannot be used as they are.", "mend them first: iudex check");
  const cohort = definitions.cohorts.get(name);
  if (!cohort)
    throw new ToolError(
      noSuch("cohort", name),
      didYouMean(name, definitions.cohorts.keys()) ?? "see iudex list cohorts",
    );
  if (cohort.kind !== "list") throw new ToolError(`${name} is not a list of ids.`, "set its condition or its share");
  if (cohort.hashed !== undefined)
    throw new ToolError(`The ids of ${name} stand as digests.`, "change them where they come from");
  return cohort;
}

/** So many ids are put in or taken out one by one, which keeps the comments beside the others. */
const fewEdits = 200;

function inPlace(
  { name, place: { file, path } }: ListCohort,
  { add = [], drop = [] }: SetIdsRequest,
  work: EditSession,
): FileChange {
  const { files } = work.loaded.content;
  const held = idsAt(files.get(file)?.parsed.data, path);
  const dropped = held.flatMap((id, i) => (drop.includes(String(id)) ? [i] : []));
  const kept = held.filter((id) => !drop.includes(String(id)));
  const known = new Set(kept.map(String));
  const fresh = [...new Set(add)].filter((id) => !known.has(id));
  if (fresh.length === 0 && dropped.length === 0) throw new NothingToChange(`${name} has these ids already.`);
  const ids = [...path, "ids"];
  const isAnew = kept.length === 0 || dropped.length > fewEdits;
  const edits: Edit[] = isAnew
    ? [{ edit: "set", path: ids, value: [...kept, ...fresh] }]
    : [
        ...dropped.toReversed().map((index): Edit => ({ edit: "remove", path: [...ids, index] })),
        ...(fresh.length > 0 ? [{ edit: "insert", path: ids, at: kept.length, values: fresh } as const] : []),
      ];
  return { file, text: editText(file, files.get(file)!.text, edits) };
}

function idsAt(data: unknown, path: readonly (string | number)[]): readonly (string | number)[] {
  const at = [...path, "ids"].reduce<unknown>(
    (value, step) => (value as Record<string | number, unknown> | undefined)?.[step],
    data,
  );
  return Array.isArray(at) ? at : [];
}
