import { type Loaded, suspendedData, suspendedFile, versionOf } from "../files/index.ts";
import type { Document } from "../source/index.ts";
import { limits } from "../values/index.ts";
import type { SentDocument, SentList, SetAnswer } from "./protocol.ts";
import type { Version } from "./sources.ts";

/** So many answers are kept as they are sent: every open page asks for the same. */
const maxKept = 4;

/** What browsers are sent of versions of the definitions, as JSON. */
export class SetAnswers {
  readonly #kept = new Map<string, string>();

  of(version: Version): string {
    const { good, suspensions = new Map() } = version;
    const suspended = suspendedData(suspensions);
    const key = `${version.version} ${good ? versionOf(good.content) : ""} ${JSON.stringify(suspended)}`;
    const known = this.#kept.get(key);
    if (known !== undefined) return known;
    const text = JSON.stringify(setAnswer(version, suspended));
    this.#kept.set(key, text);
    if (this.#kept.size > maxKept) this.#kept.delete([...this.#kept.keys()][0]!);
    return text;
  }
}

/** The definitions as a browser reads them again. */
function setAnswer({ version, loaded, good }: Version, suspended: object): SetAnswer {
  const shown = loaded.definitions ? loaded : good;
  const isAny = Object.keys(suspended).length > 0;
  return {
    version,
    documents: shown ? documentsOf(shown).map(sent) : [],
    suspended: isAny ? sent({ file: suspendedFile, data: { iudex: limits.formatVersion, suspended } }) : undefined,
    lists: shown ? listsOf(shown) : [],
    broken: loaded.definitions === undefined,
    errors: loaded.problems.filter(({ severity }) => severity === "error").length,
  };
}

function documentsOf({ content: { definitions, files } }: Loaded): Document[] {
  return definitions.flatMap((name) => files.get(name)?.document ?? []);
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
