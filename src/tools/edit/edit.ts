import type { Path } from "../../core.ts";
import { copyData, isObject } from "../../values/data.ts";

/** One change of a file's data. */
export type Edit =
  | {
      readonly edit: "set";
      readonly path: Path;
      readonly value: unknown;
      /** The keys of the object that takes it, in the order in which people write them. */
      readonly order?: readonly string[];
    }
  | { readonly edit: "remove"; readonly path: Path }
  /** Moves an item of the list at `path`. */
  | { readonly edit: "move"; readonly path: Path; readonly from: number; readonly to: number };

type Holder = Record<string | number, unknown>;

/** The data after an edit: what an edited text must come to. */
export function editedData(data: unknown, edit: Edit): unknown {
  const copy = copyData(data ?? {});
  if (edit.edit === "move") {
    const list = holderOf(copy, edit.path) as unknown as unknown[];
    const [item] = list.splice(edit.from, 1);
    list.splice(edit.to, 0, item);
    return copy;
  }
  const holder = holderOf(copy, edit.path.slice(0, -1));
  const key = edit.path.at(-1)!;
  if (edit.edit === "remove") delete holder[key];
  else holder[key] = copyData(edit.value);
  return copy;
}

/** The object or list at a path; objects that are not there yet are made. */
function holderOf(data: unknown, path: Path): Holder {
  let here = data as Holder;
  for (const step of path) {
    if (!isObject(here[step]) && !Array.isArray(here[step])) here[step] = {};
    here = here[step] as Holder;
  }
  return here;
}
