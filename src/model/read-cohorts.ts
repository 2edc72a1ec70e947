import { Bucket } from "../buckets/index.ts";
import { type IdLookup, IdSet } from "../ids/index.ts";
import { parsePath } from "../language/index.ts";
import { at, atKey, type Fault, type Problems, pointer } from "../problems/index.ts";
import type { CohortSource, Entry, SourceFile } from "../source/index.ts";
import { parseRange } from "../values/index.ts";
import { digestForm } from "./listed.ts";
import { digestOfIds } from "./revision.ts";
import type { CohortDefinition } from "./types.ts";

/** A list file that a cohort asks for. */
export interface ListRequest {
  /** As written: relative to the definition folder. */
  readonly file: string;
  readonly column: string | undefined;
}

/** The ids of a list, with the SHA-256 of its sorted set, or why there are none. */
export type ListResult =
  | { readonly ids: IdLookup; readonly digest: string; readonly fault?: undefined }
  | { readonly fault: Fault };

/** Gives the ids of a list file, or says why it cannot. */
export type ListReader = (request: ListRequest) => ListResult;

const noList: ListReader = () => ({
  fault: { code: "list-missing", message: "There are no files here to take a list from.", expected: "“ids”" },
});

/** The cohorts of a set, resolved: lists read, lots with their salt. */
export function readCohorts(
  entries: readonly Entry<CohortSource>[],
  lists: ListReader = noList,
  problems: Problems,
): Map<string, CohortDefinition> {
  const cohorts = new Map<string, CohortDefinition>();
  for (const entry of entries) cohorts.set(entry.name, readCohort(entry, lists, problems));
  return cohorts;
}

function readCohort(entry: Entry<CohortSource>, lists: ListReader, problems: Problems): CohortDefinition {
  const { name, place, source } = entry;
  const { about, when, share } = source;
  const common = { name, place, about };
  if (when !== undefined) return { kind: "condition", ...common, when };
  if (share !== undefined) return { kind: "lot", ...common, ...readLot(entry, share, problems) };
  const request = requestOf(source);
  const { ids, digest } = request ? readList(request, entry, lists, problems) : readIds(entry, problems);
  const of = parsePath(source.of ?? "").path ?? [];
  const { hashed } = source;
  return { kind: "list", ...common, of, ids, hashed, digest, file: request?.file, column: request?.column };
}

function readLot({ name, source, defaults, place }: Entry<CohortSource>, share: string, problems: Problems) {
  const by = source.by ?? defaults.by;
  if (by === undefined) reportNoSubject("share", place, problems);
  const salt = source.salt ?? name;
  return {
    by: parsePath(by ?? "").path ?? [],
    salt,
    range: parseRange(share) ?? { low: 0, high: 0 },
    bucket: new Bucket("cohort", salt),
  };
}

/** A share or split that does not say which attribute it goes by. */
export function reportNoSubject(key: string, place: Entry<unknown>["place"], problems: Problems): void {
  problems.report("subject-missing", atKey(place, key), {
    message: `This ${key} does not say which attribute it goes by.`,
    expected: "“by” beside it, in the flag or under “defaults” of this file",
    help: "add “by: account.id”, or another stable attribute",
  });
}

function requestOf({ file, column }: CohortSource): ListRequest | undefined {
  return file === undefined ? undefined : { file, column };
}

/** The list files that definition files ask for, so that they can be read before the set is put together. */
export function listRequests(files: readonly SourceFile[]): ListRequest[] {
  return files.flatMap(({ source }) =>
    Object.values(source.cohorts ?? {}).flatMap((cohort) => requestOf(cohort) ?? []),
  );
}

type ReadIds = { readonly ids: IdLookup; readonly digest: string };

const nobody: ReadIds = { ids: IdSet.from([]), digest: "" };

function readList(
  request: ListRequest,
  { place }: Entry<CohortSource>,
  lists: ListReader,
  problems: Problems,
): ReadIds {
  const result = lists(request);
  if (!result.fault) return result;
  const { code, ...details } = result.fault;
  problems.report(code, at(place, code === "list-column" && request.column ? "column" : "file"), details);
  return nobody;
}

function readIds(entry: Entry<CohortSource>, problems: Problems): ReadIds {
  const ids = (entry.source.ids ?? []).flatMap((item, i) =>
    typeof item === "number" ? (exactDecimal(item, entry, i, problems) ?? []) : item,
  );
  if (entry.source.hashed !== undefined) mustBeDigests(ids, entry, problems);
  return { ids: IdSet.from(ids), digest: digestOfIds(ids) };
}

function mustBeDigests(ids: readonly string[], { place }: Entry<unknown>, problems: Problems): void {
  for (const [i, id] of ids.entries()) {
    if (digestForm.test(id)) continue;
    problems.report("id-invalid", at(place, "ids", i), {
      message: "This id is not a digest, and the cohort is “hashed”.",
      found: id,
      expected: "the SHA-256 of “salt:id”, as 64 hex digits in lower case",
      help: "take “hashed” out, or write what iudex publish --hash-lists would",
    });
  }
}

/** An unquoted id must be spelt as the decimal text by which it is compared. */
function exactDecimal(id: number, entry: Entry<unknown>, index: number, problems: Problems): string | undefined {
  const place = at(entry.place, "ids", index);
  const raw = entry.document.spellings?.get(pointer(place.path));
  const exact = String(id);
  if (Number.isInteger(id) && (raw === undefined ? Number.isSafeInteger(id) : raw === exact)) return exact;
  problems.report("id-not-exact", place, {
    message: "This unquoted id is read as a number, which loses its spelling.",
    found: raw ?? exact,
    expected: "an id whose decimal text is exactly what stands here",
    help: `put it in quotes: "${raw ?? exact}"`,
  });
  return undefined;
}
