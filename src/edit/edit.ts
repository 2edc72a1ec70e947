import type { Path } from "../problems/index.ts";
import { copyData, isObject, own } from "../values/index.ts";

/** One change of a file's data. */
export type Edit =
  | {
      readonly edit: "set";
      readonly path: Path;
      readonly value: unknown;
      /** The keys of the object that takes it, in the order in which people write them. */
      readonly order?: readonly string[];
      /** True gives each key of the value a line of its own, as a new flag or cohort has them. */
      readonly lines?: boolean;
    }
  | { readonly edit: "remove"; readonly path: Path }
  /** Gives what stands at `path` another key. */
  | { readonly edit: "rename"; readonly path: Path; readonly to: string }
  /** Puts items into the list at `path`, in front of the one that is there. */
  | { readonly edit: "insert"; readonly path: Path; readonly at: number; readonly values: readonly unknown[] }
  /** Makes what stands at `path` the only item of a list. */
  | { readonly edit: "enlist"; readonly path: Path }
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
  if (edit.edit === "insert") {
    const list = holderOf(copy, edit.path) as unknown as unknown[];
    list.splice(edit.at, 0, ...edit.values.map((value) => copyData(value)));
    return copy;
  }
  const holder = holderOf(copy, edit.path.slice(0, -1));
  const key = edit.path.at(-1)!;
  if (edit.edit === "remove" && Array.isArray(holder)) holder.splice(Number(key), 1);
  else if (edit.edit === "remove") delete holder[key];
  else if (edit.edit === "rename") {
    holder[edit.to] = holder[key];
    delete holder[key];
  } else if (edit.edit === "enlist") holder[key] = [holder[key]];
  else holder[key] = copyData((edit as { value: unknown }).value);
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

/** What stands at a path; undefined if nothing does. */
export function dataAt(data: unknown, path: Path): unknown {
  return path.reduce<unknown>(
    (value, step) => (isObject(value) || Array.isArray(value) ? own(value, String(step)) : undefined),
    data,
  );
}
