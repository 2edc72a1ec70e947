import type { Loaded } from "../folder/index.ts";
import type { Document } from "../source/index.ts";
import type { Version } from "./sources.ts";
import type { SentDocument, SentList, SetAnswer } from "./talk.ts";

/** The definitions as a browser reads them again. */
export function setAnswer({ version, loaded, good }: Version): SetAnswer {
  const shown = loaded.definitions ? loaded : good;
  const suspended = loaded.content.scan.suspended && loaded.content.files.get(loaded.content.scan.suspended.file);
  return {
    version,
    documents: shown ? documentsOf(shown).map(sent) : [],
    suspended: suspended?.parsed.faults.length === 0 ? sent(suspended.document) : undefined,
    lists: shown ? listsOf(shown) : [],
    broken: loaded.definitions === undefined,
    errors: loaded.problems.filter(({ severity }) => severity === "error").length,
  };
}

function documentsOf({ content: { scan, files } }: Loaded): Document[] {
  return scan.definitions.flatMap(({ file }) => files.get(file)?.document ?? []);
}

function sent({ file, data, spellings }: Document): SentDocument {
  return { file, data, spellings: [...(spellings ?? [])] };
}

function listsOf({ content, definitions }: Loaded): SentList[] {
  const cohorts = [...(definitions?.cohorts.values() ?? [])];
  return [...content.lists.values()].flatMap(({ request, result }) => {
    if (result.fault) return [];
    const cohort = cohorts.find(
      (each) => each.kind === "list" && each.file === request.file && each.column === request.column,
    );
    const { ids, digest } = result;
    return cohort ? [{ ...request, size: ids.size, digest, ids: ids.few() }] : [];
  });
}
