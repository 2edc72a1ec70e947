import type { Path } from "../problems/index.ts";
import { isObject, sameData } from "../values/index.ts";
import type { Edit } from "./edit.ts";

/** Says in which order the keys of the object at a path are written. */
export type OrderAt = (path: Path) => readonly string[];

/** The fewest edits that make one value of another, so that what is the same in both stays as it is written. */
export function difference(path: Path, is: unknown, wanted: unknown, orderAt: OrderAt = () => []): Edit[] {
  if (sameData(is, wanted)) return [];
  if (Array.isArray(is) && Array.isArray(wanted) && is.length > 0 && wanted.length > 0)
    return inList(path, is, wanted, orderAt);
  if (!isObject(is) || !isObject(wanted) || Object.keys(wanted).length === 0 || Object.keys(is).length === 0)
    return [{ edit: "set", path, value: wanted, order: orderAt(path.slice(0, -1)) }];
  return inObject(path, is as Data, wanted as Data, orderAt);
}

type Data = Readonly<Record<string, unknown>>;

function inObject(path: Path, is: Data, wanted: Data, orderAt: OrderAt): Edit[] {
  const gone = Object.keys(is).filter((key) => !Object.hasOwn(wanted, key));
  const edits = Object.entries(wanted).flatMap(([key, value]): Edit[] =>
    Object.hasOwn(is, key)
      ? difference([...path, key], is[key], value, orderAt)
      : [{ edit: "set", path: [...path, key], value, order: orderAt(path) }],
  );
  // What comes is written first, so that an object is never left empty in between.
  return [...edits, ...gone.map((key): Edit => ({ edit: "remove", path: [...path, key] }))];
}

/** Items that both lists begin and end with stay; of those between, one after the other becomes another. */
function inList(path: Path, is: readonly unknown[], wanted: readonly unknown[], orderAt: OrderAt): Edit[] {
  const least = Math.min(is.length, wanted.length);
  let start = 0;
  while (start < least && sameData(is[start], wanted[start])) start++;
  let end = 0;
  while (end < least - start && sameData(is[is.length - 1 - end], wanted[wanted.length - 1 - end])) end++;
  const [before, after] = [is.slice(start, is.length - end), wanted.slice(start, wanted.length - end)];
  const common = Math.min(before.length, after.length);
  const at = start + common;
  const fresh = after.slice(common);
  return [
    ...after.slice(0, common).flatMap((item, i) => difference([...path, start + i], before[i], item, orderAt)),
    ...(fresh.length > 0 ? [{ edit: "insert", path, at, values: fresh } as const] : []),
    ...before.slice(common).map((): Edit => ({ edit: "remove", path: [...path, at] })),
  ];
}
