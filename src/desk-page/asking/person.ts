import { idText, readPath } from "../../judge/index.ts";
import { printPath } from "../../language/index.ts";
import { type Definitions, pathOf, subjectOf } from "../../model/index.ts";
import { isPrivateIn } from "./private.ts";

const paths = new WeakMap<Definitions, readonly string[]>();

/** The attribute by whose id most flags divide people; no step where none does. */
export function subjectPathOf(definitions: Definitions): readonly string[] {
  let path = paths.get(definitions);
  if (!path) {
    const counts = new Map<string, number>();
    for (const flag of definitions.flags.values()) {
      const rules = flag.source.rules ?? [];
      for (const by of [subjectOf(flag), ...rules.map((rule) => rule.by ?? "")])
        if (by !== "") counts.set(by, (counts.get(by) ?? 0) + 1);
    }
    path = pathOf([...counts].sort((a, b) => b[1] - a[1])[0]?.[0] ?? "");
    paths.set(definitions, path);
  }
  return path;
}

/** What a person is called: by the id that shares go by, unless it is private. */
export function nameOfPerson(context: Readonly<Record<string, unknown>>, definitions: Definitions | undefined): string {
  const path = definitions ? subjectPathOf(definitions) : [];
  const isShown = path.length > 0 && !isPrivateIn(definitions)(printPath(path));
  const id = isShown ? idText(readPath(context, path)) : undefined;
  if (id !== undefined) return id;
  return Object.keys(context).length === 0 ? "somebody of whom nothing is known" : "one person";
}
