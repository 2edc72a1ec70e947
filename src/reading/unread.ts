import type { Unread } from "../checks/index.ts";
import { parsePath, printPath } from "../language/index.ts";
import type { Definitions } from "../model/index.ts";
import type { Problems } from "../problems/index.ts";
import type { Document } from "../source/index.ts";
import { isObject, own } from "../values/index.ts";

/**
 * What the files name and what could not be read of it: whoever refers to such a thing is not told that it does not
 * exist. Looked at only where there are problems.
 */
export function unreadOf(
  documents: readonly Document[],
  set: Definitions,
  incomplete: boolean,
  problems: Problems,
): Unread {
  if (problems.count === 0) return { incomplete, has: () => false };
  const known = {
    flag: new Set(namesIn(documents, "flags")),
    cohort: new Set(namesIn(documents, "cohorts")),
    window: new Set(namesIn(documents, "windows")),
    environment: new Set(namesIn(documents, "environments")),
    attribute: new Set(namesIn(documents, "attributes").map((name) => canonical(name))),
  };
  const read = {
    flag: set.flags,
    cohort: set.cohorts,
    window: set.windows,
    environment: set.environments,
    attribute: set.attributes,
  };
  return { incomplete, has: (kind, name) => known[kind].has(name) && !read[kind].has(name) };
}

function namesIn(documents: readonly Document[], section: string): string[] {
  return documents.flatMap(({ data }) => {
    const members = isObject(data) ? own(data, section) : undefined;
    return isObject(members) ? Object.keys(members) : [];
  });
}

function canonical(name: string): string {
  const { path } = parsePath(name);
  return path ? printPath(path) : name;
}
