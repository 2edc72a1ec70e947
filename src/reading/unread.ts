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
  const names = new Set<`${(typeof kinds)[number]}:${string}`>();
  if (problems.count === 0) return { incomplete, names };
  for (const kind of kinds) {
    const read: ReadonlyMap<string, unknown> = set[`${kind}s`];
    for (const written of namesIn(documents, `${kind}s`)) {
      const name = kind === "attribute" ? canonical(written) : written;
      if (!read.has(name)) names.add(`${kind}:${name}`);
    }
  }
  return { incomplete, names };
}

const kinds = ["flag", "cohort", "window", "environment", "attribute"] as const;

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
