import { IdSet } from "../ids/id-set.ts";
import { parsePath } from "../language/parser.ts";
import type { ProblemCode } from "../problems/catalogue.ts";
import { at, type Problems, pointer } from "../problems/problem.ts";
import type { Document, Entry } from "../source/entries.ts";
import { isObject, own } from "../values/data.ts";
import { digestOfIds } from "./revision.ts";
import type { CohortDefinition } from "./types.ts";

/** A list file that a cohort asks for. */
export interface ListRequest {
  /** As written: relative to the definition folder. */
  readonly file: string;
  readonly column: string | undefined;
}

export type ListResult =
  | { readonly ids: IdSet; readonly digest: string; readonly fault?: undefined }
  | { readonly fault: ListFault };

export interface ListFault {
  readonly code: ProblemCode;
  readonly message: string;
  readonly found?: string | undefined;
  readonly expected?: string | undefined;
  readonly help?: string | undefined;
}

export type ListReader = (request: ListRequest) => ListResult;

const nobody = { ids: IdSet.from([]), digest: "" };

export function readCohorts(
  entries: readonly Entry[],
  lists: ListReader | undefined,
  problems: Problems,
): Map<string, CohortDefinition> {
  const cohorts = new Map<string, CohortDefinition>();
  for (const entry of entries) cohorts.set(entry.name, readCohort(entry, lists, problems));
  return cohorts;
}

function readCohort(entry: Entry, lists: ListReader | undefined, problems: Problems): CohortDefinition {
  const { name, place } = entry;
  const parts = isObject(entry.source) ? entry.source : {};
  const text = (key: string) => {
    const value = own(parts, key);
    return typeof value === "string" ? value : undefined;
  };
  const when = text("when");
  const about = text("about");
  if (when !== undefined) return { kind: "condition", name, place, about, when };
  const of = parsePath(text("of") ?? "").path ?? ["?"];
  const request = requestOf(parts);
  const { ids, digest } = request ? readList(request, entry, lists, problems) : readIds(parts, entry, problems);
  return { kind: "list", name, place, about, of, ids, digest, file: request?.file, column: request?.column };
}

function requestOf(parts: object): ListRequest | undefined {
  const file = own(parts, "file");
  const column = own(parts, "column");
  if (typeof file !== "string") return undefined;
  return { file, column: typeof column === "string" ? column : undefined };
}

/** The list files that documents ask for, so that they can be read before the set is put together. */
export function listRequests(documents: readonly Document[]): ListRequest[] {
  const requests: ListRequest[] = [];
  for (const { data } of documents) {
    const cohorts = isObject(data) ? own(data, "cohorts") : undefined;
    if (!isObject(cohorts)) continue;
    for (const cohort of Object.values(cohorts)) {
      const request = isObject(cohort) ? requestOf(cohort) : undefined;
      if (request) requests.push(request);
    }
  }
  return requests;
}

function readList(
  request: ListRequest,
  entry: Entry,
  lists: ListReader | undefined,
  problems: Problems,
): { ids: IdSet; digest: string } {
  const result = lists?.(request) ?? {
    fault: {
      code: "list-missing" as const,
      message: "There are no files here to take a list from.",
      expected: "“ids”",
    },
  };
  if (!result.fault) return result;
  const { code, ...details } = result.fault;
  problems.report(code, at(entry.place, code === "list-column" && request.column ? "column" : "file"), details);
  return nobody;
}

function readIds(parts: object, entry: Entry, problems: Problems): { ids: IdSet; digest: string } {
  const items = own(parts, "ids");
  if (!Array.isArray(items)) return nobody;
  const ids: string[] = [];
  for (const [i, item] of items.entries()) {
    const id = typeof item === "number" ? exactDecimal(item, entry, i, problems) : item;
    if (typeof id === "string" && id !== "") ids.push(id);
  }
  return { ids: IdSet.from(ids), digest: digestOfIds(ids) };
}

/** An unquoted id must be spelt as the decimal text by which it is compared. */
function exactDecimal(id: number, entry: Entry, index: number, problems: Problems): string | undefined {
  const place = at(entry.place, "ids", index);
  const raw = entry.document.spellings?.get(pointer(place.path));
  const exact = String(id);
  if (Number.isInteger(id) && (raw === undefined ? Number.isSafeInteger(id) : raw === exact)) return exact;
  problems.report("id-not-exact", place, {
    message: "This unquoted id is read as a number, which does not keep its spelling.",
    found: raw ?? exact,
    expected: "an id whose decimal text is exactly what stands here",
    help: `put it in quotes: "${raw ?? exact}"`,
  });
  return undefined;
}
