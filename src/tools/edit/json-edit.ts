import { applyEdits, findNodeAtLocation, modify, type Node, parseTree } from "jsonc-parser";
import type { Path } from "../../problems/index.ts";
import type { Edit } from "./edit.ts";
import { placeAmong } from "./key-order.ts";

/** Edits JSON text in place; the rest of the text stays as it is. */
export function editJson(text: string, edit: Edit): string | undefined {
  const path = [...edit.path];
  switch (edit.edit) {
    case "move":
      return moveItem(text, path, edit.from, edit.to);
    case "insert":
      return edit.values.reduceRight<string>(
        (before, value) => change(before, [...path, edit.at], value, { isArrayInsertion: true }),
        text,
      );
    case "remove":
      return removeOnLine(text, path) ?? change(text, path, undefined, {});
    case "set":
      return insertOnLine(text, path, edit.value, edit.order ?? []) ?? change(text, path, edit.value, orderOf(edit));
  }
}

function orderOf({ path, order }: Extract<Edit, { edit: "set" }>) {
  const key = String(path.at(-1));
  return order ? { getInsertionIndex: (keys: string[]) => placeAmong(keys, key, order) } : {};
}

function change(text: string, path: (string | number)[], value: unknown, options: object): string {
  const indent = /^[ \t]+/m.exec(text)?.[0] ?? "  ";
  // What stands on one line stays there, as does what stands beside it: a formatter would lay the line out anew.
  const holder = holderOf(text, path);
  if (holder && !isOnLines(text, holder)) return applyEdits(text, modify(text, path, value, options));
  const formattingOptions = {
    insertSpaces: !indent.startsWith("\t"),
    tabSize: indent.startsWith("\t") ? 1 : indent.length,
    eol: text.includes("\r\n") ? "\r\n" : "\n",
  };
  return applyEdits(text, modify(text, path, value, { formattingOptions, ...options }));
}

/** The nearest that is there of what is to hold the end of a path. */
function holderOf(text: string, path: Path): Node | undefined {
  for (let depth = path.length - 1; depth >= 0; depth--) {
    const node = nodeAt(text, path.slice(0, depth));
    if (node) return node;
  }
  return undefined;
}

function nodeAt(text: string, path: Path): Node | undefined {
  const root = parseTree(text);
  return root && findNodeAtLocation(root, [...path]);
}

/** A member of something that stands on one line goes with the comma that parts it from its neighbour. */
function removeOnLine(text: string, path: Path): string | undefined {
  const holder = nodeAt(text, path.slice(0, -1));
  const value = nodeAt(text, path);
  if (!holder?.children || !value || isOnLines(text, holder)) return undefined;
  const members = holder.children;
  const index = members.findIndex((each) => each === value.parent || each.offset === value.offset);
  const [member, before, after] = [members[index], members[index - 1], members[index + 1]];
  if (!member) return undefined;
  const start = after || !before ? member.offset : before.offset + before.length;
  const end = after ? after.offset : member.offset + member.length;
  return text.slice(0, start) + text.slice(end);
}

function isOnLines(text: string, { offset, length }: Node): boolean {
  return text.slice(offset, offset + length).includes("\n");
}

/** A new key of an object that stands on one line stays on that line. */
function insertOnLine(text: string, path: Path, value: unknown, order: readonly string[]): string | undefined {
  const holder = nodeAt(text, path.slice(0, -1));
  const key = String(path.at(-1));
  const pairs = holder?.type === "object" ? (holder.children ?? []) : [];
  if (!holder || pairs.length === 0 || nodeAt(text, path)) return undefined;
  if (isOnLines(text, holder)) return undefined;
  const keys = pairs.map(({ children }) => String(children![0]!.value));
  const place = placeAmong(keys, key, order);
  const pair = `${JSON.stringify(key)}: ${JSON.stringify(value)}`;
  const before = pairs[place - 1];
  const at = before ? before.offset + before.length : pairs[0]!.offset;
  return `${text.slice(0, at)}${before ? `, ${pair}` : `${pair}, `}${text.slice(at)}`;
}

/** Items change places as they are written. */
function moveItem(text: string, path: Path, from: number, to: number): string | undefined {
  const items = nodeAt(text, path)?.children;
  if (!items) return undefined;
  const texts = items.map(({ offset, length }) => text.slice(offset, offset + length));
  const [moved] = texts.splice(from, 1);
  texts.splice(to, 0, moved!);
  let result = text;
  for (let i = items.length - 1; i >= 0; i--) {
    const { offset, length } = items[i]!;
    result = `${result.slice(0, offset)}${texts[i]}${result.slice(offset + length)}`;
  }
  return result;
}
